<script lang="ts">
  import { work } from '../work.svelte';

  /** Lines that are left out of a view, in grey. */
  let view = $derived(work.view(work.ghosts));
  let element = $derived(work.elements.get(work.ghosts));
  let out = $derived(new Set([...(view?.left_out ?? []), ...(view?.hidden_out ?? [])]));
</script>

{#if view && element}
  <g data-ghosts={view.id} transform={`translate(${element.x} ${element.y})`}>
    {#each element.marks ?? [] as m, i (i)}
      {#if m.m === 'u' && out.has(m.src ?? '')}
        <path
          d={m.d}
          fill="none"
          stroke="var(--ghost)"
          stroke-width={m.w}
          stroke-dasharray={m.dash?.length ? m.dash.join(' ') : undefined}
        />
      {/if}
    {/each}
  </g>
{/if}
