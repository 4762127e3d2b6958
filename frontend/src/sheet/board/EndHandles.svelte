<script lang="ts">
  import type { Element } from '../../api/client';
  import Handle from './Handle.svelte';
  import { flattened } from './paths';

  /** Handles at the ends of a selected centre line or mark: drag one along the line. */
  let { element }: { element: Element } = $props();
  let ends = $derived(
    (element.marks ?? []).flatMap((m): [number, number][] => {
      if (m.m !== 's') return [];
      const p = flattened(m.d);
      return [
        [element.x + p[0], element.y + p[1]],
        [element.x + p[p.length - 2], element.y + p[p.length - 1]],
      ];
    }),
  );
</script>

{#each ends as at, k (k)}
  <Handle
    {at}
    small
    label={`End ${k + 1}`}
    hint="Drag the end along; with Alt all ends alike"
    data-end={String(k)}
  />
{/each}
