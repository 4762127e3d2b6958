<script lang="ts">
  import { interaction } from '../interaction.svelte';
  import { work } from '../work.svelte';
</script>

{#if work.sheet && !work.views.length && interaction.doing.kind === 'nothing'}
  <div class="empty over">
    <p>This sheet is empty.</p>
    <button
      class="go"
      onclick={() =>
        work.act({ act: 'place_set', sheet: work.sheetId, views: ['front', 'top', 'left', 'iso'] })}
      >Place a set of views</button
    >
    <button
      class="quiet"
      onclick={() => work.act({ act: 'place_set', sheet: work.sheetId, views: ['front'] })}
      >Front view alone</button
    >
  </div>
{/if}

<style>
  .empty {
    position: absolute;
    inset: 0;
    margin: auto;
    width: 300px;
    height: 120px;
    display: grid;
    gap: 8px;
    justify-items: center;
    color: var(--pencil);
  }
</style>
