<script lang="ts">
  import type { Target } from './hits';
  import { viewport } from './viewport.svelte';
  import { work } from '../work.svelte';

  /** What is pointed at or was picked, lit up. */
  let { target }: { target: { owner: string; marks: Target['marks']; kind: string; x: number; y: number } } =
    $props();
  let px = $derived(viewport.px);
  let element = $derived(work.elements.get(target.owner));
</script>

{#if target.kind === 'point'}
  <circle cx={target.x} cy={target.y} r={4.5 * px} fill="none" stroke="var(--verd)" stroke-width={1.6 * px} />
{:else if element}
  <g transform={`translate(${element.x} ${element.y})`} opacity="0.6">
    {#each target.marks as m, i (i)}
      {#if m.m === 's' || m.m === 'u'}
        <path d={m.d} fill="none" stroke="var(--verd)" stroke-width={Math.max(2.6 * px, m.w * 1.3)} />
      {/if}
    {/each}
  </g>
{/if}
