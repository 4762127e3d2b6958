<script lang="ts">
  import { guide } from '../guide.svelte';

  /** What to do next on a first sheet, beside the work; left at any step. */
  const STEPS = ['Part', 'Views', 'Section', 'Sizes', 'Issue'];
</script>

{#if guide.on}
  <aside aria-label="A first sheet" aria-live="polite">
    <ol>
      {#each STEPS as name, k (name)}
        <li class:now={k === guide.where} class:past={k < guide.where}>{name}</li>
      {/each}
    </ol>
    <p>{guide.words}</p>
    <button class="quiet" onclick={() => guide.leave()}>{guide.where > 4 ? 'Close' : 'Leave it here'}</button>
  </aside>
{/if}

<style>
  aside {
    position: fixed;
    right: 16px;
    bottom: 56px;
    width: 330px;
    z-index: 30;
    padding: 10px 12px;
    background: var(--wash);
    border: 1px solid var(--ink2);
    border-radius: 3px;
  }
  ol {
    display: flex;
    gap: 12px;
    font-size: 14px;
    color: var(--ink2);
  }
  .past {
    text-decoration: line-through;
    text-decoration-thickness: 1px;
  }
  .now {
    color: var(--ink);
    font-weight: 700;
  }
  p {
    margin: 6px 0;
  }
  button {
    padding: 0;
  }
</style>
