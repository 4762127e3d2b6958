<script lang="ts">
  import { onMount } from 'svelte';
  import { api, type PartChanges, type PartInfo } from '../api/client';
  import { bodiesWords, length, massWords, sizeWords } from '../lib/format';
  import PageHead from '../lib/PageHead.svelte';
  import { notices } from '../lib/notices.svelte';
  import { router } from '../lib/router.svelte';
  import { chosen, keeping } from './chosen.svelte';
  import PartLook from './PartLook.svelte';
  import RecipeSizes from './RecipeSizes.svelte';
  import { STANDARD, type Look } from './turning';

  /** A part of the shelf in space; what is seen can be kept under a name, or be the front of a new drawing. */
  let { part, since = '' }: { part: string; since?: string } = $props();
  let changes = $state.raw<PartChanges | null>(null);
  let comparing = $state((() => !!since)());
  /** The change that is lit alone; all of them where none is. */
  let lit = $state(-1);
  let shown = $derived(changes?.changes.filter((_, k) => lit < 0 || k === lit) ?? []);
  let beside = $derived(
    changes && {
      changes,
      before: shown.flatMap((c) => c.before),
      after: shown.flatMap((c) => c.after),
    },
  );
  let info = $state.raw<PartInfo | null>(null);
  let look = $state.raw<Look>(STANDARD[6][1]);
  const directions = keeping(
    () => info,
    (now) => (info = now),
  );

  onMount(async () => {
    try {
      info = await api.part(part);
      if (since) changes = await api.changes(part, since);
    } catch (error) {
      notices.refuse(error);
    }
    comparing = false;
  });

  /** Figures of both, before and after. */
  function figures(c: PartChanges): [string, string, string][] {
    const each = <T,>(values: T[], words: (v: T) => string) =>
      [words(values[0]), words(values[1])] as [string, string];
    return [
      ['Size', ...each(c.size, sizeWords)],
      ['Mass', ...each(c.mass, massWords)],
      ['Volume', ...each(c.volume, (v) => `${length(v)} mm³`)],
      ['Faces', ...each(c.counts, String)],
    ];
  }

  function front() {
    chosen.now = { part, look };
    router.go('new', part);
  }
</script>

<svelte:window onkeydown={(e) => e.key === 'Escape' && router.go()} />

<PageHead
  title={info?.name ?? ''}
  about={info
    ? [bodiesWords(info.summary.bodies.length), sizeWords(info.summary.size), massWords(info.mass)].join(', ')
    : ''}
>
  <button class="go" onclick={front}>New drawing, this as its front</button>
</PageHead>
<main class:two={!!since || !!info?.summary.sizes?.length}>
  {#if !comparing}
    <PartLook
      {part}
      bind:look
      kept={info?.directions ?? []}
      onkeep={directions.keep}
      onforget={directions.forget}
      {beside}
    />
  {:else}
    <p class="dim">Comparing the two revisions…</p>
  {/if}
  {#if changes}
    <aside aria-label="What differs">
      <h2>Since the revision before</h2>
      <table>
        <thead><tr><th></th><th>before</th><th>now</th></tr></thead>
        <tbody>
          {#each figures(changes) as [what, was, now] (what)}
            <tr class:same={was === now}
              ><th>{what}</th><td>{was}</td><td>{was === now ? 'as before' : now}</td></tr
            >
          {/each}
        </tbody>
      </table>
      {#if changes.words}<p>The whole part was {changes.words} in its file.</p>{/if}
      {#if !changes.sure}<p>
          It is not certain where the whole part stands; only what is certain is told.
        </p>{/if}
      <ul>
        {#each changes.changes as c, k (k)}
          <li>
            <button aria-pressed={lit === k} onclick={() => (lit = lit === k ? -1 : k)}
              ><b>{c.change}</b>
              {Math.max(c.before.length, c.after.length) > 1
                ? `${Math.max(c.before.length, c.after.length)} × `
                : ''}{c.words}</button
            >
          </li>
        {:else}
          <li>No face is gone, new, moved or resized.</li>
        {/each}
      </ul>
      <p class="dim">
        Lit and in full lines: as it is now. Clear and in broken lines: as it was. Choose a line of the list
        to see it alone.
      </p>
    </aside>
  {:else if info?.summary.sizes?.length && !since}
    <aside aria-label="Its sizes">
      <RecipeSizes part={info} onbuilt={(key) => router.go('look', key)} />
    </aside>
  {/if}
</main>

<style>
  main {
    height: calc(100vh - 44px);
    padding: 12px 16px;
  }
  .two {
    display: grid;
    grid-template-columns: 1fr 310px;
    gap: 16px;
  }
  aside {
    overflow: auto;
    font-size: 15px;
  }
  h2 {
    font-size: 17px;
    font-weight: 700;
    margin-bottom: 6px;
  }
  table {
    width: 100%;
    margin-bottom: 10px;
  }
  th {
    text-align: left;
    font-weight: 400;
    color: var(--ink2);
  }
  td,
  th {
    padding: 1px 8px 1px 0;
    vertical-align: top;
  }
  .same td,
  .dim {
    color: var(--ink2);
  }
  li button {
    text-align: left;
    width: 100%;
    padding: 3px 6px;
    border-bottom: 1px dotted var(--rule);
  }
  li button[aria-pressed='true'] {
    background: var(--field);
  }
  li b {
    font-weight: 500;
  }
  aside p {
    margin: 8px 0;
  }
</style>
