<script lang="ts">
  import Slip from '../lib/Slip.svelte';

  let { onclose }: { onclose: () => void } = $props();
  const keys: [string, string][] = [
    ['1 – 8', 'open a step of the route card'],
    ['Space A S D F', 'take an offer; while placing, another meaning'],
    ['/', 'find an act, view, size or drawing'],
    ['Ctrl Z, Ctrl Shift Z', 'undo, redo'],
    ['Esc', 'one step back, nothing is lost'],
    ['Arrows', 'move by 1 mm; Shift 10, Alt 0.1'],
    ['Tab', 'next under the pointer, or next part of the sentence'],
    ['N, Shift N', 'go through the geometry of a view'],
    ['Enter', 'press what is pointed at; set down'],
    ['+ − 0', 'zoom in, out, whole sheet; the wheel zooms at the pointer'],
    ['Middle button, or drag beside the sheet', 'move the sheet under the window'],
    ['Shift click, Shift drag', 'select several; all within a window'],
    ['Ctrl A', 'select everything on the sheet'],
    ['X', 'cut along a line: click its corners; Alt lets a leg lean, Backspace takes one back'],
    ['L', 'while a section is pulled: look the other way'],
    ['O', 'cut a view open locally'],
    ['E', 'enlarge a place: press in its middle and pull a ring round it'],
    ['Q', 'look square onto a slanted edge'],
    ['B', 'take a stretch out of a long view'],
    ['K', 'crop a view to an outline'],
    ['C', 'all centre marks and lines'],
    ['P', 'pitch circles of the selected view'],
    ['R', 'a row of sizes: click places one after another, then beside them'],
    ['H', 'the note of a hole'],
    ['T', 'tidy the sizes of the selected view, or of the sheet'],
    ['W', 'spread the views'],
    ['Ctrl C, Ctrl X, Ctrl V', 'copy or cut sizes and marks, put them on the selected view'],
    ['Del', 'remove'],
  ];
</script>

<Slip title="Keys" open {onclose}>
  <dl>
    {#each keys as [k, words] (k)}<dt><kbd>{k}</kbd></dt>
      <dd>{words}</dd>{/each}
  </dl>
</Slip>

<style>
  dl {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 5px 18px;
  }
  dt {
    text-align: right;
  }
</style>
