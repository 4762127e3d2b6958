<script lang="ts">
  import { Progress } from '@skeletonlabs/skeleton-svelte';
  import { FileInput, Moon, Search } from '@lucide/svelte';
  import { onMount } from 'svelte';
  import { api, type DrawingInfo, type PartInfo } from '../api/client';
  import { bodiesWords, dateWords, sizeWords } from '../lib/format';
  import { notices } from '../lib/notices.svelte';
  import { remember } from '../lib/remembered';
  import { router } from '../lib/router.svelte';
  import Slip from '../lib/Slip.svelte';
  import { guide } from '../sheet/guide.svelte';
  import { bringing } from './bringing.svelte';
  import { calledOf, PART_FILES } from './called';
  import IssueSeveral from './IssueSeveral.svelte';
  import DrawingCard from './DrawingCard.svelte';
  import PartRow from './PartRow.svelte';
  import PartSlip from './PartSlip.svelte';
  import { inOrder, ORDERS, order } from './order.svelte';

  let drawings = $state<DrawingInfo[]>([]);
  let parts = $state<PartInfo[]>([]);
  let search = $state('');
  let loaded = $state(false);
  let over = $state(false);
  let fresh = $state('');
  /** Of which part that may be the next revision. */
  let likely = $state('');
  let shown = $state<PartInfo | null>(null);
  let doomed = $state<DrawingInfo | null>(null);
  let basket = $state.raw<DrawingInfo[]>([]);
  let chooser: HTMLInputElement;
  let finder: HTMLInputElement;

  /** What drawings are filed under, and which of these words are shown alone. */
  let filed = $derived(
    [...new Set(drawings.flatMap((d) => d.tags ?? []))].sort((a, b) => a.localeCompare(b)),
  );
  let under = $state('');
  let shownUnder = $derived(filed.includes(under) ? under : '');
  let sorted = $derived(
    inOrder(drawings, order.now).filter((d) => !shownUnder || d.tags?.includes(shownUnder)),
  );
  /** Drawings that are chosen to do something to all of them at once; null while none are being chosen. */
  let chosen = $state<number[] | null>(null);
  /** The slip for issuing those that are chosen is open. */
  let issuing = $state(false);
  let taken = $derived(sorted.filter((d) => chosen?.includes(d.id) && !d.damaged));
  let underAll = $state('');

  function choose(id: number, on: boolean) {
    chosen = on ? [...(chosen ?? []), id] : (chosen ?? []).filter((c) => c !== id);
  }

  let asked = 0;

  /** The answer to the last question counts, whatever order answers come in. */
  async function load() {
    const mine = ++asked;
    try {
      const found = await Promise.all([api.drawings(search), api.parts(search), api.basket()]);
      if (mine === asked) [drawings, parts, basket] = found;
    } catch (error) {
      notices.refuse(error);
    }
    loaded = true;
  }
  onMount(load);

  /** Parts by their newest revisions, those before under them. */
  let heads = $derived(parts.filter((p) => !parts.some((o) => o.key === p.newest)));
  const earlierOf = (p: PartInfo) => parts.filter((o) => o.newest === p.key);

  function bring(files: FileList | null | undefined, former = '') {
    if (!files?.length) return;
    const came = async (key: string) => {
      fresh = key;
      search = '';
      await load();
      try {
        const part = await api.part(key);
        likely = part.likely ?? '';
        notices.say(
          `${part.name} is on the shelf`,
          [
            `${bodiesWords(part.summary.bodies.length)}, ${sizeWords(part.summary.size)}, read in ${part.summary.unit}s.`,
            ...part.summary.remarks,
          ].join(' '),
        );
      } catch (error) {
        notices.refuse(error);
      }
    };
    void bringing.bring(files, came, former);
  }

  function drop(event: DragEvent) {
    event.preventDefault();
    over = false;
    bring(event.dataTransfer?.files);
  }

  function keys(event: KeyboardEvent) {
    const typing = (event.target as HTMLElement).closest('input, textarea');
    if (event.key === '/' && !typing) {
      event.preventDefault();
      finder.focus();
    }
  }

  function night() {
    const root = document.documentElement;
    root.dataset.desk = root.dataset.desk === 'night' ? 'day' : 'night';
    remember('desk', root.dataset.desk);
  }

  let fetching = $state(false);

  /** Put the parts that ship with the application on the shelf. */
  async function demo() {
    fetching = true;
    try {
      const { more, ...first } = await api.demoParts();
      await bringing.followAll([first, ...(more ?? [])], load);
    } catch (error) {
      notices.refuse(error);
    }
    fetching = false;
  }

  async function rescue(drawing: DrawingInfo) {
    try {
      await api.rescue(drawing.id);
      router.go('drawing', drawing.id);
    } catch (error) {
      notices.refuse(error);
    }
  }

  /** Something done to a drawing, then the shelf as it is. */
  async function done(act: () => Promise<unknown>) {
    doomed = null;
    try {
      await act();
      await load();
    } catch (error) {
      notices.refuse(error);
    }
  }

  function remove(d: DrawingInfo) {
    return done(async () => {
      await api.removeDrawing(d.id);
      notices.say(
        `${calledOf(d)} lies in the basket`,
        'It can be put back for 30 days, at the foot of the shelf.',
      );
    });
  }
</script>

<svelte:window onkeydown={keys} />
<svelte:document
  ondragover={(e) => {
    e.preventDefault();
    over = true;
  }}
  ondragleave={(e) => {
    if (!e.relatedTarget) over = false;
  }}
  ondrop={drop}
/>

<div class="page" class:over>
  <header>
    <h1>Bare Quill</h1>
    <label class="find">
      <Search size={16} aria-hidden="true" />
      <input
        bind:this={finder}
        bind:value={search}
        oninput={load}
        placeholder="Find by any word that a sheet shows"
        aria-label="Find drawings and parts"
      />
      <kbd>/</kbd>
    </label>
    <button class="quiet" onclick={night}><Moon size={16} aria-hidden="true" /> Night desk</button>
    <button class="go" onclick={() => chooser.click()}>Bring a part</button>
    <input
      bind:this={chooser}
      type="file"
      multiple
      accept={`${PART_FILES},.quill`}
      hidden
      data-testid="part-file"
      onchange={(e) => {
        bring(e.currentTarget.files);
        e.currentTarget.value = '';
      }}
    />
  </header>

  <main>
    {#each bringing.jobs as job (job.id)}
      <div class="job">
        <span><b>{job.name}</b> · {job.doing}</span>
        <Progress value={Math.round(job.share * 100)} class="grow">
          <Progress.Track class="h-1"><Progress.Range class="range" /></Progress.Track>
        </Progress>
        <button class="quiet" onclick={() => bringing.cancel(job.id)}>Cancel</button>
      </div>
    {/each}

    <div class="head">
      <h2>Drawings</h2>
      {#if filed.length}
        <div class="filed" role="group" aria-label="Filed under">
          <button aria-pressed={!shownUnder} onclick={() => (under = '')}>All</button>
          {#each filed as t (t)}
            <button aria-pressed={shownUnder === t} onclick={() => (under = t)}>{t}</button>
          {/each}
        </div>
      {/if}
      {#if drawings.length > 1}
        <button
          class="quiet small"
          aria-pressed={chosen !== null}
          onclick={() => (chosen = chosen ? null : [])}>{chosen ? 'Choose no more' : 'Choose several'}</button
        >
        <label
          >in order of <select class="field" bind:value={order.now} aria-label="Order of the drawings">
            {#each ORDERS as [key, words] (key)}<option value={key}>{words}</option>{/each}
          </select></label
        >
      {/if}
    </div>
    {#if loaded && !drawings.length}
      <p class="empty">
        {search
          ? `No drawing answers to “${search}”.`
          : parts.length
            ? 'No drawings yet. Choose “New drawing” at a part below.'
            : 'No drawings yet. Bring a part first: drop its file anywhere here.'}
        {#if !search && parts.length}
          Or <button class="link" onclick={() => guide.begin()}>make a first sheet, step by step</button>.
        {/if}
      </p>
    {/if}
    {#if chosen}
      <div class="job" role="group" aria-label="What is done to the chosen drawings">
        <span>{taken.length ? `${taken.length} chosen` : 'None chosen yet'}</span>
        <button class="quiet small" onclick={() => (chosen = sorted.map((d) => d.id))}
          >All that are shown</button
        >
        <span class="grow"></span>
        {#if taken.length}
          <a
            class="small"
            href={`/api/drawings/issue/pdf?drawings=${taken.map((d) => d.id).join(',')}`}
            download>One PDF of all</a
          >
          <button class="quiet small" onclick={() => (issuing = true)}>Issue as revisions…</button>
          <input
            class="field"
            bind:value={underAll}
            placeholder="word to file under"
            aria-label="Word to file the chosen drawings under"
            maxlength="60"
          />
          <button
            class="quiet small"
            disabled={!underAll.trim()}
            onclick={() =>
              done(async () => {
                for (const d of taken) await api.fileUnder(d.id, [...(d.tags ?? []), underAll.trim()]);
                underAll = '';
              })}>File</button
          >
          <button
            class="quiet small"
            onclick={() =>
              done(async () => {
                for (const d of taken) await api.removeDrawing(d.id);
                chosen = null;
              })}>Into the basket</button
          >
        {/if}
      </div>
    {/if}
    <div class="sheets">
      {#each sorted as d (d.id)}
        <DrawingCard
          drawing={d}
          {parts}
          onrescue={() => rescue(d)}
          onremove={() => remove(d)}
          ondo={done}
          choosing={chosen !== null}
          chosen={chosen?.includes(d.id)}
          onchoose={(on) => choose(d.id, on)}
        />
      {/each}
    </div>

    <h2>Parts</h2>
    {#if loaded && !parts.length}
      <button class="drop" onclick={() => chooser.click()}>
        <FileInput size={22} aria-hidden="true" />
        <span
          >{search
            ? `No part answers to “${search}”.`
            : 'Drop STEP, IGES or B-rep files anywhere here, or choose some; an assembly of several files all at once or as a zip.'}</span
        >
      </button>
    {/if}
    {#if loaded && !search && !parts.length && !drawings.length}
      <p class="empty">
        Nothing of your own at hand?
        <button class="link" onclick={demo} disabled={fetching}
          >{fetching ? 'Bringing the demo parts…' : 'Bring the demo parts of the Withy Lock'}</button
        >, or <button class="link" onclick={() => guide.begin()}>make a first sheet, step by step</button>.
      </p>
    {/if}
    <div class="parts" hidden={!parts.length}>
      {#each heads as p (p.key)}
        <PartRow
          part={p}
          earlier={earlierOf(p)}
          fresh={p.key === fresh}
          likely={p.key === fresh ? parts.find((o) => o.key === likely) : undefined}
          onshow={(part) => (shown = part)}
          onbring={(files) => bring(files, p.key)}
          ondo={done}
        />
      {/each}
    </div>

    {#if basket.length}
      <h2>Basket</h2>
      <ul class="basket" aria-label="Drawings that were removed">
        {#each basket as d (d.id)}
          <li>
            <span><b>{d.number || `Drawing ${d.id}`}</b> {d.title}</span>
            <small>removed {dateWords(d.removed ?? '')}, kept for 30 days</small>
            <button
              class="quiet small"
              onclick={() => done(() => api.putBack(d.id))}
              aria-label={`Put back ${calledOf(d)}`}>Put back</button
            >
            <button
              class="quiet small"
              onclick={() => (doomed = d)}
              aria-label={`Remove for good: ${calledOf(d)}`}>Remove for good</button
            >
          </li>
        {/each}
      </ul>
    {/if}
  </main>
</div>

{#if shown}
  <PartSlip
    part={shown}
    onclose={() => {
      shown = null;
      void load();
    }}
  />
{/if}
<Slip title="Remove this drawing for good" open={doomed !== null} onclose={() => (doomed = null)}>
  <p class="mb-4">
    {doomed?.number}
    {doomed?.title} will be removed with its whole history, and cannot be put back. The part stays on the shelf.
  </p>
  <div class="flex justify-end gap-2">
    <button class="quiet" onclick={() => (doomed = null)}>Keep it</button>
    <button
      class="go"
      onclick={() => {
        const gone = doomed;
        if (gone) void done(() => api.removeDrawing(gone.id, true));
      }}>Remove for good</button
    >
  </div>
</Slip>

{#if issuing && taken.length}
  <IssueSeveral
    drawings={taken}
    onclose={() => {
      issuing = false;
      void load();
    }}
  />
{/if}

<style>
  .page {
    min-height: 100%;
  }
  .page.over main {
    outline: 2px dashed var(--verd);
    outline-offset: -10px;
  }
  header {
    position: sticky;
    top: 0;
    z-index: 5;
    height: 44px;
    display: flex;
    align-items: center;
    gap: 12px;
    padding: 0 16px;
    background: var(--wash);
    border-bottom: 1px solid var(--rule);
  }
  header h1 {
    font-weight: 700;
    font-size: 18px;
  }
  .find {
    margin: 0 auto;
    width: min(460px, 40vw);
    display: flex;
    gap: 8px;
    align-items: center;
    padding: 2px 9px;
    border: 1px solid var(--rule);
    border-radius: 3px;
    background: var(--field);
    color: var(--ink2);
  }
  .find input {
    flex: 1;
    min-width: 0;
    border: 0;
    outline: 0;
    background: none;
    color: var(--ink);
  }
  main {
    max-width: 1220px;
    margin: 0 auto;
    padding: 18px 20px 60px;
    min-height: calc(100vh - 44px);
  }
  .head {
    display: flex;
    align-items: baseline;
    justify-content: space-between;
    color: var(--ink2);
    font-size: 14px;
  }
  .head h2 {
    color: var(--ink);
    margin-right: auto;
  }
  .head {
    gap: 14px;
  }
  .filed {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
  }
  .filed button {
    padding: 0 8px 1px;
    border: 1px solid var(--rule);
    border-radius: 3px;
  }
  .filed button[aria-pressed='true'] {
    border-color: var(--ink);
    color: var(--ink);
  }
  h2 {
    font-size: 19px;
    font-weight: 700;
    margin: 18px 0 10px;
  }
  .empty {
    color: var(--ink2);
  }
  .sheets {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(270px, 1fr));
    gap: 22px;
  }
  .link {
    color: var(--ink);
    text-decoration: underline;
  }
  small {
    color: var(--ink2);
    font-size: 14px;
  }
  .basket {
    display: grid;
    gap: 2px;
    max-width: 760px;
  }
  .basket li {
    display: flex;
    gap: 12px;
    align-items: baseline;
  }
  .basket li span {
    flex: 1;
  }
  .small {
    font-size: 14px;
    color: var(--ink2);
    padding: 0 5px;
  }
  .parts {
    background: var(--wash);
    border: 1px solid var(--rule);
    border-radius: 3px;
  }
  .job :global(.range) {
    background: var(--verd);
  }
  .job {
    display: flex;
    gap: 16px;
    align-items: center;
    background: var(--wash);
    border: 1px solid var(--rule);
    border-radius: 3px;
    padding: 6px 12px;
    margin-bottom: 8px;
  }
  .drop {
    width: 100%;
    display: flex;
    gap: 12px;
    align-items: center;
    justify-content: center;
    padding: 34px;
    border: 1px dashed var(--ink2);
    border-radius: 3px;
    color: var(--ink2);
  }
</style>
