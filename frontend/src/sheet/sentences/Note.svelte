<script lang="ts">
  import { interaction } from '../interaction.svelte';
  import Choice from './Choice.svelte';
  import { rewriting } from '../making/hang.svelte';
  import { work } from '../work.svelte';

  /** A note in one sentence. */
  let { id }: { id: string } = $props();
  let own = $derived.by(() => {
    const a = work.annotation(id);
    return a?.kind === 'text_note' ? a : undefined;
  });
  let words = $derived(work.elements.get(id)?.words ?? '');
  const set = (changes: { [name: string]: unknown }) => work.setAnnotations([id], changes);
  const number = (v: string, then: (n: number) => unknown) => {
    const n = Number(v.replace(',', '.').replace(/[^0-9.-]/g, ''));
    if (Number.isFinite(n)) void then(n);
  };
  const HEIGHTS = ['2.5', '3.5', '5', '7'] as const;
</script>

{#if own}
  <span>
    Note
    <button class="part" onclick={() => interaction.make(rewriting(id, 'note', own.text))}
      >{words.length > 60 ? `${words.slice(0, 58)}…` : words}</button
    >, lettering
    <Choice
      value={own.height ? `${own.height} mm` : 'as sizes'}
      label="Height of its lettering, mm"
      typed
      options={[['0', 'as sizes'], ...HEIGHTS.map((h) => [h, `${h} mm`] as const)]}
      onset={(v: string) => number(v, (height) => set({ height }))}
      after=","
    />
    lines
    <Choice
      value={own.width ? `up to ${own.width} mm` : 'as written'}
      label="Where lines are wrapped, mm"
      typed
      options={[['0', 'as written']]}
      onset={(v: string) => number(v, (width) => set({ width }))}
      after=","
    />
    set
    <Choice
      value={own.align ?? 'left'}
      label="How its lines are set"
      options={[
        ['left', 'left'],
        ['middle', 'middle'],
        ['right', 'right'],
      ] as const}
      onset={(align) => set({ align })}
      after={own.foot ? '.' : ','}
    />
    {#if !own.foot}
      turned
      <Choice
        value={`${own.turn ?? 0}°`}
        label="Turned by"
        typed
        options={[
          ['0', '0°'],
          ['90', '90°'],
        ]}
        onset={(v: string) => number(v, (turn) => set({ turn }))}
        after="."
      />
    {/if}
  </span>
{/if}
