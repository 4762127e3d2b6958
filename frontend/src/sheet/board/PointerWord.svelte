<script lang="ts">
  import { viewport } from './viewport.svelte';

  /** What is caught, or what the hand is making, in words beside the pointer. */
  let { word, at }: { word: string; at: [number, number] } = $props();
</script>

<div
  class="word"
  style={`left:${Math.min(at[0] + 16, viewport.width - 190)}px;top:${Math.max(6, at[1] - 26)}px`}
>
  {word}
</div>

<style>
  .word {
    position: absolute;
    pointer-events: none;
    color: var(--verd);
    font-size: 14px;
    font-weight: 500;
    background: color-mix(in srgb, var(--sheet) 90%, transparent);
    padding: 0 5px 1px;
    border-radius: 3px;
    max-width: 420px;
  }
</style>
