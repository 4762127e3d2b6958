<script lang="ts">
  import { api } from '../../api/client';
  import type { components } from '../../api/schema';
  import { interaction } from '../interaction.svelte';
  import { selected } from '../selection.svelte';
  import { work } from '../work.svelte';

  /** What the part is made of: a click selects it in the view that shows it best. */
  type Stock = components['schemas']['StockJson'];
  let found = $state.raw<Stock[]>();
  let open = $state(false);
  $effect(() => {
    const [drawing, sheet] = [work.id, work.sheetId];
    void work.state;
    if (!open) return;
    let live = true;
    api.features(drawing, sheet).then(
      (now) => live && (found = now),
      () => live && (found = []),
    );
    return () => (live = false);
  });
  let bare = $derived((found ?? []).filter((f) => !f.sized).length);

  const rank = { circle: 0, outline: 1, arc: 2, straight: 3, curve: 4 };

  function show(stock: Stock) {
    const refs = new Set(stock.refs);
    const targets = work.views
      .flatMap((v) => work.hits?.all(v.id) ?? [])
      .filter((t) => t.kind === 'line' && refs.has(t.ref))
      .sort(
        (a, b) =>
          Number(a.hidden ?? false) - Number(b.hidden ?? false) ||
          rank[a.shape ?? 'curve'] - rank[b.shape ?? 'curve'],
      );
    if (targets.length) selected.geometry(targets[0]);
    else interaction.words = 'no view of this sheet shows it';
  }
</script>

<button aria-expanded={open} onclick={() => (open = !open)}
  >What the part has{#if open && found}<span class:flag={bare > 0}
      >{bare ? `${bare} unsized` : 'all sized'}</span
    >{:else}<span>{open ? '…' : 'show'}</span>{/if}</button
>
{#if open && found}
  {#each found as f, i (i)}
    <button class="item" title={f.stands} onclick={() => show(f)}
      ><span class="what" class:flag={!f.sized}>{f.count > 1 ? `${f.count}× ` : ''}{f.words}</span></button
    >
  {:else}
    <small>Nothing that is recognised.</small>
  {/each}
{/if}

<style>
  button {
    display: flex;
    justify-content: space-between;
    gap: 8px;
    padding: 3.5px 0;
    text-align: left;
    border-bottom: 1px dotted var(--rule);
  }
  button:hover {
    color: var(--verd);
  }
  .item {
    padding-left: 8px;
  }
  span,
  small {
    color: var(--ink2);
    font-size: 13.5px;
  }
  .what {
    color: inherit;
  }
  .flag {
    color: var(--ochre) !important;
  }
</style>
