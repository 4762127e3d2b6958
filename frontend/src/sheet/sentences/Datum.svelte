<script lang="ts">
  import { capital } from '../../lib/format';
  import Choice from './Choice.svelte';
  import { work } from '../work.svelte';

  /** A datum in one sentence. */
  let { id }: { id: string } = $props();
  let own = $derived.by(() => {
    const a = work.annotation(id);
    return a?.kind === 'datum_feature' ? a : undefined;
  });
  let words = $derived(work.elements.get(id)?.words ?? '');
  let named = $derived(
    work.annotations.filter(
      (a) =>
        a.kind === 'tolerance_frame' &&
        a.frame.rows.some((r) => r.datums?.some((d) => d.letters.includes(own?.letter ?? ''))),
    ).length,
  );
</script>

{#if own}
  <span>
    {capital(words)}. Its letter
    <Choice
      value={own.letter}
      label="Its letter"
      typed
      onset={(v: string) => work.act({ act: 'change_datum', id, letter: v.trim().toUpperCase() })}
      after=","
    />
    its triangle
    <Choice
      value={own.filled === false ? 'open' : 'filled'}
      label="Its triangle"
      options={[
        ['filled', 'filled'],
        ['open', 'open'],
      ]}
      onset={(v: string) => work.setAnnotations([id], { filled: v === 'filled' })}
      after="."
    />
    {named
      ? `${named} tolerance ${named === 1 ? 'frame refers' : 'frames refer'} to it.`
      : 'No frame refers to it yet.'}
  </span>
{/if}
