<script lang="ts">
  import Slip from '../../lib/Slip.svelte';
  import { acts, moreActs } from '../acts';
  import { guide } from '../guide.svelte';

  let { onclose }: { onclose: () => void } = $props();
  const keys: [string, string][] = [
    ['1 – 8', 'open a step of the route card'],
    ['Space A S D F', 'take an offer; while placing, another meaning'],
    ['/', 'find an act, view, size or drawing'],
    ['Ctrl Z, Ctrl Shift Z', 'undo, redo'],
    ['Esc', 'one step back, nothing is lost'],
    ['Arrows', 'move by 1 mm; Shift 10, Alt 0.1'],
    ['Tab', 'next under the pointer, or next part of the sentence'],
    ['.', 'point at something by its name: Ø40, left edge, hole 3'],
    ['N, Shift N', 'go through the geometry of a view'],
    ['Page up, page down', 'the last or the next sheet; Shift moves this one'],
    ['Enter', 'press what is pointed at; set down'],
    ['+ − 0', 'zoom in, out, whole sheet; the wheel zooms at the pointer, sideways it moves the sheet'],
    ['Middle button, or drag beside the sheet', 'move the sheet under the window'],
    ['Shift click, Shift drag', 'select several; all within a window'],
    ['L', 'while a section is pulled: look the other way'],
  ];
  const STEPS = [
    'Any time',
    'Part',
    'Sheet',
    'Views',
    'Cuts and close-ups',
    'Centres',
    'Sizes',
    'Notes',
    'Check',
  ];
  let steps = $derived(
    STEPS.map((name, n) => ({ name, own: [...acts, ...moreActs].filter((a) => a.step === n) })).filter(
      (s) => s.own.length,
    ),
  );
</script>

<Slip title="Keys and acts" open {onclose}>
  <button
    class="quiet"
    onclick={() => {
      onclose();
      guide.begin();
    }}>A first sheet, step by step</button
  >
  <dl>
    {#each keys as [k, words] (k)}<dt><kbd>{k}</kbd></dt>
      <dd>{words}</dd>{/each}
    {#each steps as s (s.name)}
      <h3>{s.name}</h3>
      {#each s.own as a (a.name)}
        <dt>
          {#if a.key}<kbd>{a.key}</kbd>{/if}
        </dt>
        <dd>{a.name} <small>{a.says}</small></dd>
      {/each}
    {/each}
  </dl>
</Slip>

<style>
  h3 {
    grid-column: 2;
    margin-top: 8px;
    font-weight: 700;
  }
  dd {
    max-width: 520px;
  }
  small {
    color: var(--ink2);
    font-size: 14px;
  }
  dl {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 5px 18px;
  }
  dt {
    text-align: right;
  }
</style>
