<script lang="ts">
  import { interaction } from '../interaction.svelte';
</script>

{#if interaction.doing.kind === 'cutting'}
  <div class="hint">
    {#if interaction.doing.growing}
      <span>Click corners; beyond the view, or <kbd>Enter</kbd>, ends the line</span>
      <span><kbd>Alt</kbd> lets a leg lean</span>
      <span><kbd>Backspace</kbd> takes one back</span>
    {:else}
      <span>Click to set down</span>
      <span><kbd>L</kbd> other way</span>
      {#each interaction.others as o, i (o)}<span><kbd>{'ASDF'[i]}</kbd> {o}</span>{/each}
    {/if}
    <span><kbd>Esc</kbd> leave</span>
  </div>
{:else if interaction.doing.kind === 'outlining'}
  <div class="hint">
    {#if interaction.doing.closed}
      <span>Depth: click a centre or line in any view; beside them, to the middle</span>
    {:else}
      <span>Draw round at one stroke, or click corners and the first again</span>
    {/if}
    <span><kbd>Esc</kbd> leave</span>
  </div>
{:else if interaction.doing.kind === 'making' && !interaction.doing.making.written?.()}
  <div class="hint">
    {#each interaction.doing.making.others?.() ?? [] as o, i (o.name)}<span
        ><kbd>{'ASDF'[i]}</kbd> {o.name}</span
      >{/each}
    <span><kbd>Esc</kbd> leave</span>
  </div>
{:else if interaction.doing.kind === 'placing' && interaction.others.length}
  <div class="hint">
    {#each interaction.others as o, i (o)}<span><kbd>{'ASDF'[i]}</kbd> {o}</span>{/each}<span
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
    white-space: nowrap;
    font-size: 15px;
  }
</style>
