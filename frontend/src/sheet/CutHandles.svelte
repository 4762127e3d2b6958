<script lang="ts">
  import type { ViewJson } from '../api/client';
  import { viewport } from './viewport.svelte';

  /** Open squares at the corners of a selected section's cutting line: drag one, and the section follows. */
  let { view }: { view: ViewJson } = $props();
</script>

{#each view.section?.corners ?? [] as [x, y], k (k)}
  {@const [px, py] = viewport.window(x, y)}
  <button
    data-corner={k}
    aria-label={`Corner ${k + 1} of the cutting line`}
    title="Drag the corner; drop it on a feature to tie it there"
    style={`left:${px - 7}px;top:${py - 7}px`}
  ></button>
{/each}

<style>
  button {
    position: absolute;
    width: 14px;
    height: 14px;
    border: 2px solid var(--verd);
    background: color-mix(in srgb, var(--sheet) 60%, transparent);
    cursor: move;
    touch-action: none;
  }
  button:hover {
    border-color: var(--madder);
  }
</style>
