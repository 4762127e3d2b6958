<script lang="ts">
  import { interaction } from '../interaction.svelte';
  import { written } from '../kinds/value_table.kind';
  import { linesOf } from '../making/hang.svelte';
  import { work } from '../work.svelte';

  /** A table of values in one sentence. */
  let { id }: { id: string } = $props();
  let own = $derived.by(() => {
    const a = work.annotation(id);
    return a?.kind === 'value_table' ? a : undefined;
  });
</script>

{#if own}
  <span>
    Table
    <button class="part" onclick={() => interaction.make(linesOf('table', id, written(id)))}
      >{own.heading || 'without a heading'}, {own.rows.length} rows</button
    >.
  </span>
{/if}
