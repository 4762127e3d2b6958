<script lang="ts">
  import { titling, type Cell, type Edge } from '../titling.svelte';
  import { viewport } from './viewport.svelte';
  import { work } from '../work.svelte';

  /** The cells of the title block while it is changed: chosen by clicks, their borders dragged. */
  const CLOSE = 0.01;
  let fields = $derived(new Map((work.ink?.fields ?? []).map((f) => [f.cell, f])));
  /** The lower left corner of the block on the screen's sheet, mm, y down. */
  let zero = $derived.by<[number, number]>(() => {
    const f = work.ink?.fields ?? [];
    return [Math.min(...f.map((c) => c.x)), Math.max(...f.map((c) => c.y + c.height))];
  });
  let dragged = $state<{ cell: Cell; side: Edge; to: number } | null>(null);

  /** The borders of a cell that can be dragged, each once: the others are those of its neighbours. */
  function edges(c: Cell): Edge[] {
    return [
      ...(c.x + c.width < titling.width - CLOSE ? (['right'] as const) : []),
      'top' as const,
      ...(c.x < CLOSE ? (['left'] as const) : []),
    ];
  }
  function strip(c: Cell, side: Edge): string {
    const x = zero[0] + c.x;
    const y = zero[1] - c.y - c.height;
    const [left, top] = viewport.window(side === 'right' ? x + c.width : x, y);
    return side === 'top'
      ? `left:${left}px;top:${top - 4}px;width:${c.width * viewport.k}px;height:8px;cursor:ns-resize`
      : `left:${left - 4}px;top:${top}px;width:8px;height:${c.height * viewport.k}px;cursor:ew-resize`;
  }
  function at(e: PointerEvent, side: Edge): number {
    const board = (e.currentTarget as HTMLElement).closest('.board')!.getBoundingClientRect();
    const [x, y] = viewport.sheet(e.clientX - board.left, e.clientY - board.top);
    const to = side === 'top' ? zero[1] - y : x - zero[0];
    return Math.round(to * 2) / 2;
  }
  async function drop() {
    const now = dragged;
    if (now) await titling.do({ act: 'move_cell_edge', cell: now.cell.id, side: now.side, to: now.to });
    dragged = null;
  }
  /** Where a border is dragged to, over the whole block. */
  let line = $derived.by(() => {
    if (!dragged) return '';
    const [left, foot] = viewport.window(...zero);
    const [width, height] = [titling.width * viewport.k, titling.height * viewport.k];
    const by = dragged.to * viewport.k;
    return dragged.side === 'top'
      ? `left:${left}px;top:${foot - by}px;width:${width}px;height:0`
      : `left:${left + by}px;top:${foot - height}px;width:0;height:${height}px`;
  });
</script>

<div class="over" role="group" aria-label="Cells of the title block">
  {#each titling.cells as c (c.id)}
    {@const f = fields.get(c.id)}
    {#if f}
      <button
        class="cell"
        class:chosen={titling.chosen.includes(c.id)}
        aria-pressed={titling.chosen.includes(c.id)}
        aria-label={`Cell ${f.label || f.value || c.shows}`}
        style={viewport.style(f.x, f.y, f.width, f.height)}
        onclick={(e) => titling.choose(c.id, e.shiftKey)}
      ></button>
    {/if}
  {/each}
  {#each titling.cells as c (c.id)}
    {#each edges(c) as side (side)}
      <div
        class="edge"
        role="presentation"
        data-edge={`${c.id} ${side}`}
        style={strip(c, side)}
        onpointerdown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          dragged = { cell: c, side, to: at(e, side) };
        }}
        onpointermove={(e) => {
          if (dragged?.cell.id === c.id && dragged.side === side)
            dragged = { cell: c, side, to: at(e, side) };
        }}
        onpointerup={drop}
        onpointercancel={() => (dragged = null)}
      ></div>
    {/each}
  {/each}
  {#if line}<div class="line" style={line}></div>{/if}
</div>

<style>
  .cell {
    position: absolute;
    border: 1px solid color-mix(in srgb, var(--sheet-verd, var(--verd)) 60%, transparent);
    background: color-mix(in srgb, var(--verd) 4%, transparent);
  }
  .cell:hover {
    background: color-mix(in srgb, var(--verd) 14%, transparent);
  }
  .cell.chosen {
    border: 2px solid var(--madder);
    background: color-mix(in srgb, var(--madder) 8%, transparent);
  }
  .edge {
    position: absolute;
    touch-action: none;
  }
  .edge:hover {
    background: color-mix(in srgb, var(--verd) 45%, transparent);
  }
  .line {
    position: absolute;
    outline: 1px solid var(--madder);
    pointer-events: none;
  }
</style>
