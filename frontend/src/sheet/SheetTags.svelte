<script lang="ts">
  import { work } from './work.svelte';

  /** The sheets of a drawing, with small pictures where there are several: clicked to be shown, pulled aside into another order;
   * a view that is pulled onto one goes there. */
  let row = $state<HTMLElement>();
  let pulled = $state<{ id: string; from: number; by: number } | null>(null);
  let several = $derived(work.sheets.length > 1);

  function down(e: PointerEvent, id: string) {
    if (e.button !== 0) return;
    pulled = { id, from: e.clientX, by: 0 };
    (e.currentTarget as HTMLElement).setPointerCapture(e.pointerId);
  }

  function move(e: PointerEvent) {
    if (pulled && several) pulled = { ...pulled, by: e.clientX - pulled.from };
  }

  function up() {
    const now = pulled;
    pulled = null;
    if (!now) return;
    if (Math.abs(now.by) < 6) return void work.openSheet(now.id);
    const middles = [...(row?.querySelectorAll<HTMLElement>('[data-sheet]:not([data-sheet=""])') ?? [])].map(
      (e) => ({ id: e.dataset.sheet, at: e.getBoundingClientRect() }),
    );
    const own = middles.find((m) => m.id === now.id);
    if (!own) return;
    // the picture has moved along with the hand
    const at = own.at.x + own.at.width / 2;
    const to = middles.filter((m) => m.id !== now.id && m.at.x + m.at.width / 2 < at).length;
    void work.moveSheet(now.id, to);
  }
</script>

<div class="tags" bind:this={row} role="group" aria-label="Sheets">
  {#each work.sheets as s, i (s.id)}
    <button
      class="tag"
      class:on={s.id === work.sheetId}
      class:under={work.overTag === s.id}
      data-sheet={s.id}
      aria-current={s.id === work.sheetId ? 'page' : undefined}
      title={several ? 'Click to show it, pull it aside to put it elsewhere' : undefined}
      style:transform={pulled?.id === s.id ? `translateX(${pulled.by}px)` : undefined}
      onpointerdown={(e) => down(e, s.id)}
      onpointermove={move}
      onpointerup={up}
      onpointercancel={() => (pulled = null)}
      onkeydown={(e) => {
        if (e.key !== 'Enter' && e.key !== ' ') return;
        e.preventDefault();
        e.stopPropagation();
        void work.openSheet(s.id);
      }}
    >
      {#if several}
        <img
          src={`/api/drawings/${work.id}/thumbnail?sheet=${s.id}&edit=${work.pictured[s.id] ?? 0}`}
          alt=""
          draggable="false"
          onerror={(e) => ((e.currentTarget as HTMLElement).style.visibility = 'hidden')}
          onload={(e) => ((e.currentTarget as HTMLElement).style.visibility = '')}
        />
      {/if}
      <span>{s.name || `Sheet ${i + 1}`} · {s.size}</span>
    </button>
  {/each}
  <button
    class="tag more"
    class:under={work.overTag === 'new'}
    data-sheet=""
    title="Add a sheet"
    aria-label="Add a sheet"
    disabled={!work.state}
    onclick={() => work.newSheet()}>+</button
  >
</div>

<style>
  .tags {
    margin: 0 auto;
    display: flex;
    gap: 4px;
    min-width: 0;
    overflow-x: auto;
    scrollbar-width: none;
  }
  .tag {
    display: flex;
    align-items: center;
    gap: 7px;
    padding: 3px 12px 4px;
    border: 1px solid var(--rule);
    border-radius: 3px;
    color: var(--ink2);
    background: var(--wash);
    white-space: nowrap;
    touch-action: none;
  }
  .tag.on {
    background: var(--field);
    color: var(--ink);
    border-color: var(--ink2);
    font-weight: 500;
  }
  .tag.under {
    border-color: var(--verd);
    color: var(--verd);
  }
  .more {
    padding: 3px 10px 4px;
  }
  img {
    height: 24px;
    max-width: 36px;
    margin: 0 0 0 -6px;
    border: 1px solid var(--rule);
    background: #fefdf9;
  }
</style>
