<script lang="ts">
  import Either from './Either.svelte';
  import { work } from '../work.svelte';

  /** The general texture in one sentence. */
  let { id }: { id: string } = $props();
  let own = $derived.by(() => {
    const a = work.annotation(id);
    return a?.kind === 'general_texture' ? a : undefined;
  });
</script>

{#if own}
  <span>
    All surfaces without a sign:
    <button class="part" onclick={() => (work.field = 'surface')}>{work.elements.get(id)?.words}</button>, as
    the title block says; in brackets
    <Either
      on={own.each !== false}
      words={['the plain sign for all others', 'each other texture once']}
      label="What stands in brackets"
      onset={(each) => work.setAnnotations([id], { each })}
      after="."
    />
  </span>
{/if}
