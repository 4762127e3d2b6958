<script lang="ts">
  import Choice from './Choice.svelte';
  import { work } from '../work.svelte';

  /** A mark of a revision in one sentence. */
  let { id }: { id: string } = $props();
  let own = $derived.by(() => {
    const a = work.annotation(id);
    return a?.kind === 'revision_mark' ? a : undefined;
  });
</script>

{#if own}
  <span>
    Mark of revision
    <Choice
      value={own.letter}
      label="Letter of the revision"
      typed
      onset={(v: string) => work.setAnnotations([id], { letter: v.trim().toUpperCase() })}
      after=","
    />
    <Choice
      value={own.form === 'cloud' ? 'with a cloud' : 'as a triangle'}
      label="How what changed is marked"
      options={[
        ['triangle', 'as a triangle'],
        ['cloud', 'with a cloud'],
      ] as const}
      onset={(v) => work.setAnnotations([id], { form: v })}
      after="."
    />
    {#if own.form === 'cloud'}
      <Choice
        value={`${own.wide}`}
        label="Width of the cloud, mm"
        typed
        onset={(v: string) => work.setAnnotations([id], { wide: Number(v.replace(',', '.')) || 10 })}
      /> wide, <Choice
        value={`${own.high}`}
        label="Height of the cloud, mm"
        typed
        onset={(v: string) => work.setAnnotations([id], { high: Number(v.replace(',', '.')) || 10 })}
      /> high.
    {/if}
  </span>
{/if}
