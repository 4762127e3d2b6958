<script lang="ts">
  /** What something says in plain words, where that is asked for. */
  let { words }: { words: string } = $props();
  let shown = $state(false);
</script>

{#if words}
  <button class="part" aria-expanded={shown} onclick={() => (shown = !shown)}>In plain words</button>
  {#if shown}<em>{words}</em>{/if}
{/if}

<style>
  em {
    font-style: normal;
    color: var(--verd);
  }
</style>
