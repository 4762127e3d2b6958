<script lang="ts">
  import type { ViewJson } from '../../api/client';
  import { interaction } from '../interaction.svelte';
  import { pulling } from '../making/pull';
  import { partsOf } from '../parts_of_views';
  import { viewport } from './viewport.svelte';

  /** Tabs at the sides and corners of a selected view: pull one to get the view from there, or press it and follow
   * with the arrow keys. */
  let { view }: { view: ViewJson } = $props();
  let sides: [string, number, number][] = $derived([
    ['above-left', 0, 0],
    // beside the caption
    ['above', partsOf(view.id, 'caption').length ? 0.2 : 0.5, 0],
    ['above-right', 1, 0],
    ['right', 1, 0.5],
    ['below-right', 1, 1],
    ['below', 0.5, 1],
    ['below-left', 0, 1],
    ['left', 0, 0.5],
  ]);
  const words = (side: string) =>
    side.includes('-')
      ? `Pull a pictorial view, ${side.replace('-', ' ')}`
      : `Pull a projected view, ${side}`;

  /** By keys: the view begins well away from its parent, where the arrows take it on. */
  function begin(side: string, fx: number, fy: number) {
    const reach = Math.max(view.width, view.height) + 30;
    interaction.pointer = [
      view.x + view.width / 2 + (fx - 0.5) * 2 * reach,
      view.y + view.height / 2 + (fy - 0.5) * 2 * reach,
    ];
    interaction.make(pulling(view.id, side));
  }
</script>

{#each sides as [side, fx, fy] (side)}
  {@const [x, y] = viewport.window(view.x + view.width * fx, view.y + view.height * fy)}
  <button
    data-side={side}
    aria-label={words(side)}
    title={words(side)}
    style={`left:${x + (fy === 0.5 || side.includes('-') ? (fx - 0.5) * 26 : 0) - 11}px;top:${y + (fy - 0.5) * 26 - 11}px`}
    onclick={(e) => {
      if (e.detail === 0) begin(side, fx, fy);
    }}
  >
    <svg viewBox="-11 -11 22 22" width="22" height="22" aria-hidden="true">
      {#if side.includes('-')}
        <path d="M0 -6 l6 3 v6 l-6 3 l-6 -3 v-6 z m0 6 v6 m0 -6 l6 -3 m-6 3 l-6 -3" />
      {:else if side === 'left' || side === 'right'}
        <rect x="-4.5" y="-9" width="9" height="18" rx="2" />
        <path d="M-1.5 -4 v8 m3 0 v-8" />
      {:else}
        <rect x="-9" y="-4.5" width="18" height="9" rx="2" />
        <path d="M-4 -1.5 h8 m0 3 h-8" />
      {/if}
    </svg>
  </button>
{/each}

<style>
  button {
    position: absolute;
    width: 22px;
    height: 22px;
    cursor: grab;
    touch-action: none;
  }
  svg {
    display: block;
  }
  rect,
  path {
    fill: var(--sheet);
    stroke: var(--verd);
    stroke-width: 1.4;
  }
  button:hover :is(rect, path) {
    stroke: var(--madder);
  }
</style>
