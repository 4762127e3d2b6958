<script lang="ts">
  import type { ViewJson } from '../api/client';

  /** Tabs at the sides and corners of a selected view: pull one to get the view from there. */
  let { view, px }: { view: ViewJson; px: number } = $props();
  const sides: [string, number, number][] = [
    ['left', 0, 0.5],
    ['right', 1, 0.5],
    ['above', 0.5, 0],
    ['below', 0.5, 1],
    ['above-left', 0, 0],
    ['above-right', 1, 0],
    ['below-left', 0, 1],
    ['below-right', 1, 1],
  ];
  const words = (side: string) =>
    side.includes('-')
      ? `Pull a pictorial view, ${side.replace('-', ' ')}`
      : `Pull a projected view, ${side}`;
</script>

{#each sides as [side, fx, fy] (side)}
  {@const x = view.x + view.width * fx + (fx - 0.5) * 26 * px}
  {@const y = view.y + view.height * fy + (fy - 0.5) * 26 * px}
  <g data-side={side} role="button" aria-label={words(side)} tabindex="-1">
    <title>{words(side)}</title>
    <rect x={x - 11 * px} y={y - 11 * px} width={22 * px} height={22 * px} fill="transparent" />
    {#if side.includes('-')}
      <path
        d={`M${x} ${y - 6 * px} l${6 * px} ${3 * px} v${6 * px} l${-6 * px} ${3 * px} l${-6 * px} ${-3 * px} v${-6 * px} z m0 ${6 * px} v${6 * px} m0 ${-6 * px} l${6 * px} ${-3 * px} m${-6 * px} ${3 * px} l${-6 * px} ${-3 * px}`}
        fill="#FEFDF9"
        stroke="#1C7C6E"
        stroke-width={1.4 * px}
      />
    {:else}
      {@const t = fy === 0.5}
      <rect
        x={x - (t ? 4.5 : 9) * px}
        y={y - (t ? 9 : 4.5) * px}
        width={(t ? 9 : 18) * px}
        height={(t ? 18 : 9) * px}
        rx={2 * px}
        fill="#FEFDF9"
        stroke="#1C7C6E"
        stroke-width={1.4 * px}
      />
      <path
        d={t
          ? `M${x - 1.5 * px} ${y - 4 * px} v${8 * px} m${3 * px} 0 v${-8 * px}`
          : `M${x - 4 * px} ${y - 1.5 * px} h${8 * px} m0 ${3 * px} h${-8 * px}`}
        stroke="#1C7C6E"
        stroke-width={px}
      />
    {/if}
  </g>
{/each}

<style>
  g {
    cursor: grab;
    outline: none;
  }
  g:hover :is(rect, path) {
    stroke: #b0412a;
  }
</style>
