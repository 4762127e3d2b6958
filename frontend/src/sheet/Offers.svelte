<script lang="ts">
  import { offersFor } from './offers';
  import { work } from './work.svelte';

  /** Acts that fit what is selected, beside it. */
  let { x, y, width, height }: { x: number; y: number; width: number; height: number } = $props();
  const keys = ['Space', 'A', 'S', 'D', 'F'];
  let offers = $derived(offersFor(work.selection).slice(0, 5));
  let left = $derived(Math.max(6, Math.min(x + 18, width - 200)));
  let top = $derived(Math.max(6, Math.min(y + 18, height - offers.length * 29 - 8)));
</script>

{#if offers.length}
  <div class="offers over" style={`left:${left}px;top:${top}px`} role="menu" aria-label="Offers">
    {#each offers as offer, i (offer.name)}
      <button role="menuitem" onclick={() => offer.run()}>{offer.name} <kbd>{keys[i]}</kbd></button>
    {/each}
  </div>
{/if}

<style>
  .offers {
    position: absolute;
    display: grid;
    min-width: 148px;
    gap: 1px;
    background: #c3c6bc;
    border: 1px solid #55636b;
    border-radius: 3px;
    overflow: hidden;
    font-size: 14.5px;
    z-index: 3;
  }
  button {
    background: #fefdf9;
    color: #17232c;
    padding: 3px 8px 4px 10px;
    display: flex;
    gap: 14px;
    justify-content: space-between;
    align-items: center;
  }
  button:first-child {
    background: #17232c;
    color: #fefdf9;
  }
  button:first-child kbd {
    color: #dfe4dc;
    border-color: #5b6a70;
  }
  button:hover {
    background: #1c7c6e;
    color: #fefdf9;
  }
  kbd {
    color: #55636b;
    border-color: #c3c6bc;
  }
</style>
