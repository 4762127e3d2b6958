<script lang="ts">
  import { offersFor } from '../offers';
  import { selected } from '../selection.svelte';
  import { viewport } from './viewport.svelte';

  /** Acts that fit what is selected, beside it. */
  let { x, y }: { x: number; y: number } = $props();
  const keys = ['Space', 'A', 'S', 'D', 'F'];
  let all = $derived(offersFor(selected.now));
  let more = $state(false);
  let offers = $derived(more ? all : all.slice(0, 5));
  $effect(() => {
    // what is selected next begins with the likeliest again
    void selected.now;
    more = false;
  });
  function take(run: () => unknown) {
    // what was asked for is done: the rest folds up again
    more = false;
    run();
  }
  let left = $derived(Math.max(6, Math.min(x + 18, viewport.width - 200)));
  let top = $derived(
    Math.max(
      6,
      Math.min(y + 18, viewport.height - (offers.length + (all.length > offers.length ? 1 : 0)) * 29 - 8),
    ),
  );
</script>

{#if offers.length}
  <div class="offers over" style={`left:${left}px;top:${top}px`} role="group" aria-label="Offers">
    {#each offers as offer, i (offer.name)}
      <button onclick={() => take(offer.run)}
        >{offer.name}{#if i < keys.length}
          <kbd>{keys[i]}</kbd>{/if}</button
      >
    {/each}
    {#if all.length > offers.length}<button onclick={() => (more = true)}>More…</button>{/if}
  </div>
{/if}

<style>
  .offers {
    position: absolute;
    display: grid;
    min-width: 148px;
    gap: 1px;
    background: var(--sheet-rule);
    border: 1px solid var(--pencil);
    border-radius: 3px;
    overflow: hidden;
    font-size: 14.5px;
    z-index: 3;
  }
  button {
    background: var(--sheet);
    color: var(--pen);
    padding: 3px 8px 4px 10px;
    display: flex;
    gap: 14px;
    justify-content: space-between;
    align-items: center;
    text-align: left;
  }
  button:first-child {
    background: var(--pen);
    color: var(--sheet);
  }
  button:first-child kbd {
    color: var(--pen-text);
    border-color: var(--pen-rule);
  }
  button:hover {
    background: var(--sheet-verd);
    color: var(--sheet);
  }
  kbd {
    color: var(--pencil);
    border-color: var(--sheet-rule);
  }
</style>
