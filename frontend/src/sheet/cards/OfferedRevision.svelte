<script lang="ts">
  import { work } from '../work.svelte';

  /** That the shelf has a newer revision of a part of the drawing: looked at beforehand, or put off until the drawing is opened anew. */
  let offered = $derived(work.offered);
</script>

{#if offered && !work.revising}
  <div class="offered" role="status">
    <span><b>A newer revision of {offered.name}</b> is on the shelf, from {offered.file_name}.</span>
    <button class="go" onclick={() => (work.revising = offered.part)}>See what would change</button>
    <button class="quiet" onclick={() => work.putOff.push(offered.by)}>Not now</button>
  </div>
{/if}

<style>
  .offered {
    position: absolute;
    z-index: 8;
    bottom: 62px;
    left: 50%;
    translate: -50%;
    display: flex;
    gap: 12px;
    align-items: center;
    padding: 5px 12px;
    max-width: 92%;
    white-space: nowrap;
    background: var(--wash);
    border: 1px solid var(--ink);
    border-radius: 3px;
    box-shadow: 0 3px 10px rgb(0 0 0 / 0.18);
  }
  span {
    overflow: hidden;
    text-overflow: ellipsis;
  }
  b {
    font-weight: 500;
  }
</style>
