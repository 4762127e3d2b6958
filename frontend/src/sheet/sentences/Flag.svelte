<script lang="ts">
  import Choice from './Choice.svelte';
  import { work } from '../work.svelte';

  /** A flag in one sentence. */
  let { id }: { id: string } = $props();
  let own = $derived.by(() => {
    const a = work.annotation(id);
    return a?.kind === 'note_flag' ? a : undefined;
  });
  let block = $derived.by(() => {
    const a = own && work.annotation(own.block);
    return a?.kind === 'notes_block' ? a : undefined;
  });
  let line = $derived(block?.notes.find((n) => n.id === own?.line));
</script>

{#if own}
  <span>
    Flag for note
    <Choice
      value={line && block ? `${block.notes.indexOf(line) + 1}. ${line.text}` : 'that is gone'}
      label="The note that it refers to"
      options={(block?.notes ?? []).map((n, k): [string, string] => [n.id, `${k + 1}. ${n.text}`])}
      onset={(v: string) => work.setAnnotations([id], { line: v })}
      after="."
    />
  </span>
{/if}
