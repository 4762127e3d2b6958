<script lang="ts">
  import { changeThread, threadOf } from '../kinds/thread.kind';
  import { work } from '../work.svelte';
  import Choice from './Choice.svelte';

  /** A thread in one sentence. */
  let { id }: { id: string } = $props();
  let own = $derived.by(() => {
    const found = threadOf(id);
    return work.state?.document.threads?.find((t) => t.ref === found?.ref);
  });
  const figure = (text: string) => Number(text.replace(',', '.').replace(/[^0-9.]/g, '')) || 0;
</script>

{#if own}
  <span>
    Thread
    <Choice
      value={own.size}
      label="Size: M8, M8×1, 1/4-20, G1/2, Rp1/2, 1/2-14 NPT, Tr20×4"
      typed
      options={[['none', 'none']]}
      onset={(v: string) => changeThread(id, { size: v })}
      after=","
    />
    class
    <Choice
      value={own.tolerance || 'none'}
      label="Tolerance class, such as 6H or 6g"
      typed
      options={[
        ['none', 'none'],
        ['6H', '6H'],
        ['6g', '6g'],
        ['4H', '4H'],
        ['4h', '4h'],
      ]}
      onset={(v: string) => changeThread(id, { tolerance: v })}
      after=","
    />
    <Choice
      value={own.hand === 'left' ? 'left hand' : 'right hand'}
      label="Hand"
      options={[
        ['right', 'right hand'],
        ['left', 'left hand'],
      ]}
      onset={(v: string) => changeThread(id, { hand: v === 'left' ? 'left' : 'right' })}
      after=","
    />
    <Choice
      value={own.length ? `${own.length} mm long` : 'as long as it is'}
      label="Length of the thread in mm"
      typed
      options={[['', 'as long as the bore or shaft']]}
      onset={(v: string) => changeThread(id, { length: figure(v) })}
      after=","
    />
    <Choice
      value={own.runout ? `running out over ${own.runout} mm` : 'no run-out drawn'}
      label="Length of the run-out in mm"
      typed
      options={[['', 'no run-out drawn']]}
      onset={(v: string) => changeThread(id, { runout: figure(v) })}
      after="."
    />
  </span>
{/if}
