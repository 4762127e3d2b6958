<script lang="ts">
  import { onMount } from 'svelte';
  import offered from '../api/offered.json';
  import {
    api,
    type FacePreview,
    type KeptWays,
    type LastWays,
    type NewDrawing,
    type PartInfo,
    type Proposal,
  } from '../api/client';
  import Elements from '../lib/Elements.svelte';
  import { bodiesWords, massWords, parseScale, SCALES, sizeWords } from '../lib/format';
  import PageHead from '../lib/PageHead.svelte';
  import { notices } from '../lib/notices.svelte';
  import { patiently } from '../lib/patience';
  import { router } from '../lib/router.svelte';
  import { chosen as chosenLook, keeping } from '../look/chosen.svelte';
  import PartLook from '../look/PartLook.svelte';
  import { STANDARD, type Look } from '../look/turning';
  import FrontChoice from './FrontChoice.svelte';

  let { part }: { part: string } = $props();
  const names = ['front', 'top', 'left', 'right', 'bottom', 'back', 'iso'] as const;

  let info = $state<PartInfo | null>(null);
  let faces = $state<FacePreview[]>([]);
  let face = $state<FacePreview['face']>('-Y');
  let turns = $state(0);
  /** Looked at in space, and the direction taken from there in place of a face. */
  let inSpace = $state(false);
  let look = $state.raw<Look>(STANDARD[0][1]);
  let own = $state.raw<Look | null>((() => chosenLook.take(part))());
  let standard = $state<'ISO' | 'ASME'>('ISO');
  let angle = $state<'first' | 'third'>('first');
  let unit = $state<'mm' | 'inch'>('mm');
  let size = $state<string>('');
  let landscape = $state(true);
  let scale = $state('');
  let chosen = $state<string[]>(['front', 'top', 'left', 'iso']);
  let proposal = $state<Proposal | null>(null);
  let trouble = $state('');
  let busy = $state(false);
  let asked = 0;

  /** The ways of the drawing that was begun last, and whether this one begins so too. */
  let last = $state.raw<LastWays | null>(null);
  /** As what it begins: the last drawing, ways that are kept (by their number), or as the standard has it. */
  let alike = $state('last');
  let kept = $state.raw<KeptWays[]>([]);
  let house = $derived(kept.find((k) => `${k.id}` === alike));
  let begun = $derived(house?.ways ?? (alike === 'last' ? last?.ways : null));
  let owner = $state('');
  let creator = $state('');

  /** Fields of the title block but for those that are told here. */
  const others = (fields: Record<string, string> = {}) =>
    Object.fromEntries(Object.entries(fields).filter(([n]) => n !== 'owner' && n !== 'creator'));

  function take(ways: NonNullable<LastWays['ways']>) {
    standard = ways.standard ?? 'ISO';
    angle = ways.angle ?? 'first';
    owner = ways.fields?.owner || owner;
    creator = ways.fields?.creator || creator;
  }

  onMount(async () => {
    try {
      kept = await api.keptWays();
      last = await api.lastWays();
      if (last.ways) {
        take(last.ways);
        unit = last.ways.unit ?? 'mm';
      }
    } catch {
      // it begins as the standard has it
    }
    try {
      info = await api.part(part);
      if (info.summary.unit === 'inch') unit = 'inch';
    } catch (error) {
      notices.refuse(error);
    }
    await loadFaces();
  });

  /** Why the six faces are not there, where they are not. */
  let faceless = $state('');

  async function loadFaces() {
    faceless = '';
    try {
      faces = await patiently(() => api.faces(part));
    } catch (error) {
      faceless = (error as Error).message;
    }
  }

  function wish(): NewDrawing {
    return {
      part,
      face,
      quarter_turns: turns,
      ...(own ? { toward: own.toward, up: own.up } : {}),
      standard,
      angle,
      unit,
      landscape,
      views: names.filter((n) => chosen.includes(n)),
      fields: {
        ...(owner.trim() ? { owner: owner.trim() } : {}),
        ...(creator.trim() ? { creator: creator.trim() } : {}),
      },
      ...(begun ? { ways: { ...begun, fields: others(begun.fields) } } : {}),
      ...(house ? { house: house.name } : {}),
      ...(size ? { size: size as NewDrawing['size'] } : {}),
      ...(scale && parseScale(scale) ? { scale: parseScale(scale) } : {}),
    };
  }

  const directions = keeping(
    () => info,
    (now) => (info = now),
  );

  function takeFront() {
    own = look;
    turns = 0;
    inSpace = false;
  }

  let again = $state(0);
  $effect(() => {
    void again;
    const w = wish();
    const mine = ++asked;
    const timer = setTimeout(async () => {
      busy = true;
      try {
        const found = await patiently(
          () => api.propose(w),
          () => mine === asked,
        );
        if (mine === asked) {
          proposal = found;
          trouble = '';
          // some views take their time: look again
          if (found.ink.views.some((v) => v.pending)) setTimeout(() => mine === asked && again++, 700);
        }
      } catch (error) {
        if (mine === asked) trouble = (error as Error).message;
      }
      if (mine === asked) busy = false;
    }, 60);
    return () => clearTimeout(timer);
  });

  function conventions(next: 'ISO' | 'ASME') {
    standard = next;
    angle = offered.usual[next].angle as typeof angle;
    size = '';
  }

  async function place(empty: boolean) {
    try {
      const made = await api.newDrawing(
        empty
          ? {
              ...wish(),
              views: [],
              size: (size || proposal?.size || offered.usual[standard].size) as NewDrawing['size'],
            }
          : wish(),
      );
      router.go('drawing', made.id);
    } catch (error) {
      notices.refuse(error);
    }
  }
</script>

<svelte:window
  onkeydown={(e) => {
    if (e.key === 'Escape') router.go();
    if (e.key === 'Enter' && !(e.target as HTMLElement).closest('input, select, button, a'))
      void place(false);
  }}
/>

<PageHead
  title="New drawing"
  about={info
    ? [
        info.name,
        bodiesWords(info.summary.bodies.length),
        sizeWords(info.summary.size),
        massWords(info.mass),
      ].join(', ')
    : ''}
>
  <button class="quiet" onclick={() => place(true)}>Start with an empty sheet</button>
  <button class="go" disabled={!proposal || !!trouble} onclick={() => place(false)}>Place views</button>
</PageHead>

<div class="body">
  <aside>
    <FrontChoice
      {faces}
      {faceless}
      again={loadFaces}
      directions={info?.directions ?? []}
      bind:face
      bind:turns
      bind:own
      bind:inSpace
    />
    <section>
      <h2>Views</h2>
      <div class="checks">
        {#each names as n (n)}
          <label>
            <input type="checkbox" value={n} bind:group={chosen} />
            {n === 'iso' ? 'isometric' : n}
          </label>
        {/each}
      </div>
    </section>
    <section class="pairs">
      <h2>Sheet</h2>
      <label
        >Conventions
        <select
          class="field"
          value={standard}
          onchange={(e) => conventions(e.currentTarget.value as 'ISO' | 'ASME')}
        >
          <option value="ISO">ISO</option><option value="ASME">ASME</option>
        </select>
      </label>
      <label
        >Projection
        <select class="field" bind:value={angle}
          ><option value="first">first angle</option><option value="third">third angle</option></select
        >
      </label>
      <label
        >Size
        <select class="field" bind:value={size}>
          <option value="">proposed{proposal && !size ? `: ${proposal.size}` : ''}</option>
          {#each offered.sizes[standard] as s (s)}<option value={s}>{s}</option>{/each}
        </select>
      </label>
      <label
        >Direction
        <select class="field" bind:value={landscape}
          ><option value={true}>lying</option><option value={false}>upright</option></select
        >
      </label>
      <label
        >Scale
        <input
          class="field"
          list="scales"
          bind:value={scale}
          placeholder={proposal ? `proposed: ${proposal.scale_text}` : 'proposed'}
        />
        <datalist id="scales"
          >{#each SCALES as s (s)}<option value={s}></option>{/each}</datalist
        >
      </label>
      <label
        >Units
        <select class="field" bind:value={unit}
          ><option value="mm">mm</option><option value="inch">inch</option></select
        >
      </label>
      <h2>Title block and looks</h2>
      <label
        >Legal owner
        <input class="field" bind:value={owner} maxlength="200" />
      </label>
      <label
        >Created by
        <input class="field" bind:value={creator} maxlength="200" />
      </label>
      {#if last?.ways || kept.length}
        <label class="wide"
          >Lines, lettering, looks, title block
          <select
            class="field"
            bind:value={alike}
            onchange={() => {
              if (!begun) return;
              take(begun);
              if (info?.summary.unit !== 'inch') unit = begun.unit ?? 'mm';
            }}
          >
            {#if last?.ways}<option value="last">as in {last.called || 'the last drawing'}</option>{/if}
            {#each kept as k (k.id)}<option value={`${k.id}`}>{k.name}</option>{/each}
            <option value="">as the standard has it</option>
          </select></label
        >
      {/if}
      {#if scale && !parseScale(scale)}<p class="bad">Write a scale as 1:2 or 2:1.</p>{/if}
    </section>
  </aside>
  <main>
    {#if inSpace}
      <div class="space">
        <PartLook
          {part}
          bind:look
          kept={info?.directions ?? []}
          onkeep={directions.keep}
          onforget={directions.forget}
        />
        <button class="go" onclick={takeFront}>Take this as the front</button>
      </div>
    {/if}
    {#if trouble}<p class="bad">{trouble}</p>{/if}
    {#if inSpace}
      <!-- the sheet waits -->
    {:else if proposal}
      <svg
        viewBox={`0 0 ${proposal.ink.width} ${proposal.ink.height}`}
        class:busy
        aria-label="Preview of the sheet"
      >
        <rect width={proposal.ink.width} height={proposal.ink.height} fill="var(--sheet)" />
        <Elements elements={proposal.ink.elements} />
      </svg>
      <p class="dim">
        {proposal.size}, scale {proposal.scale_text}, {angle} angle. All of it can be changed later.
      </p>
    {:else if !trouble}
      <p class="dim">Projecting the views…</p>
    {/if}
  </main>
</div>

<style>
  .dim {
    color: var(--ink2);
    font-size: 14.5px;
  }
  .body {
    display: grid;
    grid-template-columns: 330px 1fr;
    height: calc(100vh - 44px);
  }
  aside {
    background: var(--wash);
    border-right: 1px solid var(--rule);
    overflow: auto;
    padding: 4px 16px 20px;
  }
  h2 {
    font-weight: 500;
    font-size: 16px;
    margin: 14px 0 7px;
    grid-column: 1/3;
  }
  .checks {
    display: grid;
    grid-template-columns: 1fr 1fr 1fr;
    gap: 3px 10px;
  }
  .checks label {
    display: flex;
    gap: 6px;
    align-items: center;
  }
  .checks input {
    accent-color: var(--ink);
  }
  .pairs {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 8px 12px;
  }
  .pairs label {
    display: grid;
    color: var(--ink2);
    font-size: 14px;
  }
  .wide {
    grid-column: 1/3;
  }
  main {
    display: grid;
    grid-template-rows: 1fr auto;
    place-items: center;
    padding: 22px 26px 14px;
    min-height: 0;
  }
  svg {
    max-width: 100%;
    max-height: 100%;
    width: 100%;
    min-height: 0;
    height: 100%;
  }
  .space {
    display: grid;
    grid-template-rows: 1fr auto;
    gap: 10px;
    justify-items: end;
    width: 100%;
    height: 100%;
    min-height: 0;
  }
  svg.busy {
    opacity: 0.6;
  }
  .bad {
    color: var(--ochre);
    grid-column: 1/3;
  }
</style>
