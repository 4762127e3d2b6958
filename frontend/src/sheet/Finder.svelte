<script lang="ts">
  import { onMount } from 'svelte';
  import { api, type DrawingInfo } from '../api/client';
  import { router } from '../lib/router.svelte';
  import { acts, moreActs } from './acts';
  import { offersFor } from './offers';
  import { selected } from './selection.svelte';
  import { work } from './work.svelte';

  /** One field for all acts, views, sizes and drawings. */
  let { onclose }: { onclose: () => void } = $props();
  let text = $state('');
  let at = $state(0);
  let drawings = $state<DrawingInfo[]>([]);
  let input: HTMLInputElement;

  type Entry = { name: string; kind: string; key?: string; why?: string; run: () => unknown };
  let all = $derived<Entry[]>([
    ...offersFor(selected.now).map((o, i) => ({
      name: o.name,
      kind: 'offer',
      key: ['Space', 'A', 'S', 'D', 'F'][i],
      run: o.run,
    })),
    ...[...acts, ...moreActs].map((a) => ({
      name: a.name,
      kind: 'act',
      key: a.key,
      why: a.reason?.(),
      run: a.run,
    })),
    ...(work.ink?.views ?? []).map((v) => ({
      name: v.words,
      kind: 'view',
      run: () => selected.elements(v.id),
    })),
    ...work.sizes.map((d) => ({
      name: `${d.kind === 'dimension' ? 'Dimension' : 'Hole note'} ${work.elements.get(d.id)?.words ?? ''}`,
      kind: 'size',
      run: () => selected.elements(d.id),
    })),
    ...(work.ink?.fields ?? [])
      .filter((f) => !f.auto)
      .map((f) => ({
        name: `Fill in ${f.label.toLowerCase()}`,
        kind: 'title block',
        run: () => (work.field = f.field),
      })),
    ...drawings.map((d) => ({
      name: `${d.number} ${d.title}`,
      kind: 'drawing',
      run: () => router.go('drawing', d.id),
    })),
  ]);
  let found = $derived.by(() => {
    const words = text.toLowerCase().split(/\s+/).filter(Boolean);
    const rank = (name: string) =>
      name.startsWith(words.join(' '))
        ? 0
        : words.every((w) => name.split(/[^\p{L}\p{N}]+/u).some((n) => n.startsWith(w)))
          ? 1
          : 2;
    return all
      .filter((e) => words.every((w) => `${e.name} ${e.kind}`.toLowerCase().includes(w)))
      .map((e) => ({ e, rank: rank(e.name.toLowerCase()) }))
      .sort((a, b) => a.rank - b.rank)
      .map(({ e }) => e)
      .slice(0, 14);
  });

  onMount(async () => {
    input.focus();
    try {
      drawings = await api.drawings();
    } catch {
      /* the acts are still there */
    }
  });

  function run(e: Entry | undefined) {
    if (!e || e.why) return;
    onclose();
    e.run();
  }

  function keys(e: KeyboardEvent) {
    e.stopPropagation();
    if (e.key === 'Escape') onclose();
    else if (e.key === 'ArrowDown') at = Math.min(at + 1, found.length - 1);
    else if (e.key === 'ArrowUp') at = Math.max(at - 1, 0);
    else if (e.key === 'Enter') run(found[at]);
    else return;
    e.preventDefault();
  }
</script>

<!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
<div class="back" onclick={onclose}></div>
<div class="finder" role="dialog" aria-label="Finder">
  <input
    class="field"
    bind:this={input}
    bind:value={text}
    oninput={() => (at = 0)}
    onkeydown={keys}
    placeholder="Find an act, view, size or drawing"
    aria-label="Find"
  />
  {#each found as e, i (e.kind + e.name + i)}
    <button class:at={i === at} disabled={!!e.why} title={e.why} onclick={() => run(e)}>
      <span
        >{e.name}{#if e.why}<small> · {e.why}</small>{/if}</span
      >
      <span class="kind"
        >{e.kind}{#if e.key}<kbd>{e.key}</kbd>{/if}</span
      >
    </button>
  {:else}
    <p>Nothing answers to “{text}”.</p>
  {/each}
</div>

<style>
  .back {
    position: fixed;
    inset: 0;
    z-index: 44;
  }
  .finder {
    position: fixed;
    top: 54px;
    left: 50%;
    transform: translateX(-50%);
    width: min(520px, 94vw);
    z-index: 45;
    background: var(--wash);
    border: 1px solid var(--ink2);
    border-radius: 3px;
    padding: 8px;
    display: grid;
  }
  input {
    margin-bottom: 6px;
    font-size: 17px;
  }
  button {
    display: flex;
    justify-content: space-between;
    padding: 3px 9px 4px;
    text-align: left;
    border-radius: 3px;
  }
  button.at {
    background: color-mix(in srgb, var(--verd) 15%, transparent);
  }
  button:disabled,
  .kind,
  small {
    color: var(--ink2);
  }
  .kind {
    display: flex;
    gap: 8px;
    font-size: 14px;
  }
  p {
    padding: 6px 9px;
    color: var(--ink2);
  }
</style>
