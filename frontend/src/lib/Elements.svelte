<script lang="ts">
  import type { Element } from '../api/client';
  import Ink from './Ink.svelte';
  import { runsOf } from './runs';

  /** Draws elements of a sheet, each where it stands; `shifted` ones by so many mm aside. */
  let {
    elements,
    colour = '',
    shifted = new Set(),
    by = [0, 0],
  }: { elements: Element[]; colour?: string; shifted?: Set<string>; by?: [number, number] } = $props();
  const runs = $derived(runsOf(elements));
</script>

{#each runs as run (run.key)}
  {@const aside = shifted.has(run.group)}
  <g class="run" transform={`translate(${run.x + (aside ? by[0] : 0)} ${run.y + (aside ? by[1] : 0)})`}>
    {#each run.parts as part (part.id)}
      <g data-element={part.id}><Ink marks={part.marks} {colour} /></g>
    {/each}
  </g>
{/each}
