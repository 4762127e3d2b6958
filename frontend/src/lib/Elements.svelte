<script lang="ts">
  import type { Element } from '../api/client';
  import Ink from './Ink.svelte';

  /** Draws elements of a sheet, each where it stands; `shifted` ones by so many mm aside. */
  let {
    elements,
    colour = '',
    shifted = new Set(),
    by = [0, 0],
  }: { elements: Element[]; colour?: string; shifted?: Set<string>; by?: [number, number] } = $props();
</script>

{#each elements as e (e.id)}
  {@const aside = shifted.has(e.group)}
  <g data-element={e.id} transform={`translate(${e.x + (aside ? by[0] : 0)} ${e.y + (aside ? by[1] : 0)})`}>
    <Ink marks={e.marks ?? []} {colour} />
  </g>
{/each}
