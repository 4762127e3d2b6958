<script lang="ts">
  import type { Element } from '../api/client';
  import { flattened } from './paths';
  import { viewport } from './viewport.svelte';

  /** Open squares at the ends of a selected centre line or mark: drag one along the line. */
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
  {@const [px, py] = viewport.window(...at)}
  <button
    data-end={k}
    aria-label={`End ${k + 1}`}
    title="Drag the end along; with Alt all ends alike"
    style={`left:${px - 5}px;top:${py - 5}px`}
  ></button>
{/each}

<style>
  button {
    position: absolute;
    width: 10px;
    height: 10px;
    border: 1.5px solid var(--verd);
    background: color-mix(in srgb, var(--sheet) 60%, transparent);
    cursor: move;
    touch-action: none;
  }
  button:hover {
    border-color: var(--madder);
  }
</style>
