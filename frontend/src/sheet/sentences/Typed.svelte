<script lang="ts">
  import { capital } from '../../lib/format';
  import Choice from './Choice.svelte';
  import { kinds } from '../kinds';
  import { work } from '../work.svelte';

  /** A sign that is typed, in one sentence. */
  let { id }: { id: string } = $props();
  let element = $derived(work.elements.get(id));
  let noun = $derived(kinds.get(element?.kind ?? '')?.noun[0] ?? '');
</script>

{#if element}
  <span>
    {capital(noun)}
    <Choice
      value={element.words}
      label="As one types it"
      typed
      onset={(text: string) => work.act({ act: 'change_sign', id, text })}
      after="."
    />
  </span>
{/if}
