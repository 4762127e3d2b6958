<script lang="ts">
  import { capital } from '../../lib/format';
  import { api, type FrameJson } from '../../api/client';
  import Choice from './Choice.svelte';
  import { work } from '../work.svelte';
  import Plainly from './Plainly.svelte';

  /** A tolerance frame in one sentence: each cell with what it could say instead, and all of it as it can be typed. */
  let { id }: { id: string } = $props();
  let found = $state.raw<FrameJson>();
  let own = $derived.by(() => {
    const a = work.annotation(id);
    return a?.kind === 'tolerance_frame' ? a : undefined;
  });
  $effect(() => {
    // what it says, or where it hangs, may have changed
    const derived = !!own?.derived;
    void work.ink;
    let live = true;
    api.frames(work.id, { act: 'change_frame', id, text: '', derived }).then(
      (f) => live && (found = f),
      () => live && (found = undefined),
    );
    return () => (live = false);
  });
  /** What stands before a cell in the sentence, in the first row and in further ones. */
  const JOINS: { [cell: string]: [string, string] } = {
    characteristic: ['Tolerance of', 'and of'],
    zone: ['in', 'in'],
    value: ['of', 'of'],
    modifiers: ['mm,', 'mm,'],
    'second datum': ['then', 'then'],
    'third datum': ['then', 'then'],
    'fourth datum': ['then', 'then'],
  };
  const set = (text: string, derived = !!own?.derived) =>
    work.act({ act: 'change_frame', id, text, derived });
</script>

{#if found}
  <span>
    {#each found.rows as row, k (k)}
      {#each row as cell (cell.name)}
        {JOINS[cell.name]?.[Math.min(k, 1)] ?? (cell.says === 'none' ? '' : 'to')}
        <Choice
          value={cell.says}
          label={k ? `Row ${k + 1}: ${cell.name}` : capital(cell.name)}
          options={cell.options}
          onset={(text: string) => set(text)}
          after=" "
        />
      {/each}
    {/each}
    for the
    {#if own?.foot}
      <Choice
        value={found.meant}
        label="What it is about"
        options={[
          ['surface', 'the surface'],
          ['axis', 'its axis, with Ⓐ'],
        ]}
        onset={(v: string) => set(found?.text ?? '', v === 'axis')}
        after=";"
      />
    {:else}
      {found.about};
    {/if}
    as typed
    <Choice value={found.text} label="As one says it" typed onset={(text: string) => set(text)} after="." />
    <Plainly words={found.explained} />
    {#if found.fault}<span class="flag">{found.fault}</span>{/if}
    {#each found.remarks as r (r)}<span class="flag">{r}.</span>{/each}
  </span>
{/if}

<style>
  .flag {
    color: var(--ochre);
  }
</style>
