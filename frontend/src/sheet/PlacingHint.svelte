<script lang="ts">
  import { asking } from './asking.svelte';
</script>

{#if asking.doing.kind === 'placing' && asking.others.length}
  <div class="hint">
    {#each asking.others as o, i (o)}<span><kbd>{'ASDF'[i]}</kbd> {o}</span>{/each}<span
      ><kbd>Esc</kbd> leave</span
    >
  </div>
{/if}

<style>
  .hint {
    position: absolute;
    bottom: 10px;
    left: 50%;
    transform: translateX(-50%);
    display: flex;
    gap: 14px;
    background: var(--wash);
    border: 1px solid var(--rule);
    border-radius: 3px;
    padding: 3px 12px 4px;
  }
</style>
