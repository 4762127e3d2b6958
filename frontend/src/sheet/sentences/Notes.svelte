<script lang="ts">
  import { interaction } from '../interaction.svelte';
  import Choice from './Choice.svelte';
  import { flagging } from '../making/hang.svelte';
  import { work } from '../work.svelte';

  /** General notes in one sentence: each line with its flags. */
  let { id }: { id: string } = $props();
  let own = $derived.by(() => {
    const a = work.annotation(id);
    return a?.kind === 'notes_block' ? a : undefined;
  });
  const flags = (line: string) =>
    work.annotations.filter((a) => a.kind === 'note_flag' && a.block === id && a.line === line).length;
  const short = (text: string) => (text.length > 34 ? `${text.slice(0, 32)}…` : text);

  /** The lines in another order, or with one of them changed. */
  function set(k: number, what: string) {
    const lines = own?.notes.map((n) => n.text) ?? [];
    if (what === 'up' || what === 'down') {
      const to = k + (what === 'up' ? -1 : 1);
      if (to < 0 || to >= lines.length) return;
      [lines[k], lines[to]] = [lines[to], lines[k]];
    } else if (what === 'out') lines.splice(k, 1);
    else if (what === 'flag') return void (own && interaction.make(flagging(id, own.notes[k].id)));
    else lines[k] = what;
    if (!lines.length) return void work.remove([id]);
    void work.act({ act: 'change_notes', id, text: lines.join('\n') });
  }
</script>

{#if own}
  <span>
    General notes:
    {#each own.notes as n, k (n.id)}
      <Choice
        value={`${k + 1}. ${short(n.text)}`}
        label={`Note ${k + 1}, ${flags(n.id)} flags`}
        typed
        text={n.text}
        options={[
          ['flag', 'set a flag for it'],
          ['up', 'one place up'],
          ['down', 'one place down'],
          ['out', 'leave it out'],
        ]}
        onset={(v: string) => set(k, v)}
        after={k < own.notes.length - 1 ? ' ' : ''}
      />
    {/each}
  </span>
{/if}
