<script lang="ts">
  import type { Snippet } from 'svelte';

  /** A card with the look of things in one sentence, which the whole drawing can have. */
  let {
    label,
    whole,
    onwhole,
    onclose,
    children,
  }: {
    label: string;
    /** The whole drawing has it. */
    whole: boolean;
    onwhole: () => unknown;
    onclose: () => void;
    children: Snippet;
  } = $props();
</script>

<section class="card over" aria-label={label}>
  <p>{@render children()}</p>
  <div class="foot">
    <button class="quiet" disabled={whole} onclick={onwhole}
      >{whole ? 'The whole drawing has it' : 'For the whole drawing'}</button
    >
    <button class="quiet" onclick={onclose}>Close</button>
  </div>
</section>

<style>
  .card {
    position: absolute;
    right: 12px;
    bottom: 12px;
    width: 420px;
    background: var(--wash);
    border: 1px solid var(--ink2);
    border-radius: 3px;
    padding: 10px 14px 8px;
    z-index: 4;
    line-height: 1.75;
  }
  .foot {
    display: flex;
    justify-content: space-between;
    margin-top: 6px;
  }
</style>
