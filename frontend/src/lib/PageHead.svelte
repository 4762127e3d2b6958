<script lang="ts">
  import type { Snippet } from 'svelte';

  /** The head of a page: back to the shelf, what it is about, and what can be done. */
  let { title, about, children }: { title: string; about: string; children: Snippet } = $props();
</script>

<header>
  <a href="#/">Shelf ›</a>
  <h1>{title}</h1>
  {#if about}<span class="dim">{about}</span>{/if}
  <span class="end">{@render children()}</span>
</header>

<style>
  header {
    height: 44px;
    display: flex;
    gap: 10px;
    align-items: center;
    padding: 0 14px;
    background: var(--wash);
    border-bottom: 1px solid var(--rule);
  }
  a,
  .dim {
    color: var(--ink2);
  }
  .dim {
    font-size: 14.5px;
  }
  h1 {
    font-weight: 700;
    font-size: 17px;
  }
  .end {
    margin-left: auto;
    display: flex;
    gap: 8px;
  }
</style>
