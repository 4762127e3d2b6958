<script lang="ts">
  import { viewport } from './viewport.svelte';
  import { work } from '../work.svelte';

  /** The places of views whose lines are not there yet: how far each is, and a way to stop it. */
  let views = $derived((work.ink?.views ?? []).filter((v) => v.pending));
</script>

{#each views as v (v.id)}
  {@const p = work.progress.find((x) => x.view === v.id)}
  <div
    class="waiting over"
    role="status"
    aria-label={v.words}
    style={viewport.style(v.x, v.y, v.width, v.height)}
  >
    <div class="words">
      <b>{v.name}</b>
      {#if p?.stopped}
        <span>{p.what}</span>
        <button class="quiet" onclick={() => work.projection(v.id, 'again')}>Project again</button>
      {:else}
        <span>{p ? `${Math.round(p.share * 100)} %, ${p.what}` : 'being projected'}</span>
        <progress max="1" value={p?.share ?? 0}></progress>
        <button class="quiet" onclick={() => work.projection(v.id, 'stop')}>Stop</button>
      {/if}
    </div>
  </div>
{/each}

<style>
  .waiting {
    position: absolute;
    border: 1px dashed var(--ghost);
    display: grid;
    place-items: center;
    pointer-events: none;
  }
  .words {
    pointer-events: auto;
    display: grid;
    justify-items: center;
    gap: 4px;
    padding: 6px 10px;
    background: var(--sheet-veil);
    color: var(--pencil);
    text-align: center;
  }
  progress {
    width: 120px;
    height: 5px;
    accent-color: var(--sheet-verd);
  }
</style>
