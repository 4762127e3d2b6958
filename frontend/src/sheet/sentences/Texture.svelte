<script lang="ts">
  import Choice from './Choice.svelte';
  import { RA } from '../kinds/surface_texture.kind';
  import { work } from '../work.svelte';

  /** A texture in one sentence. */
  let { id }: { id: string } = $props();
  let own = $derived.by(() => {
    const a = work.annotation(id);
    return a?.kind === 'surface_texture' ? a : undefined;
  });
  const MADE = [
    ['any', 'by any process'],
    ['removed', 'with material removed'],
    ['not removed', 'without removing material'],
  ] as const;
  const LAYS = [
    ['', 'not stated'],
    ['=', '= along the view'],
    ['⊥', '⊥ across the view'],
    ['X', 'X crossed'],
    ['M', 'M in many ways'],
    ['C', 'C about the centre'],
    ['R', 'R from the centre'],
    ['P', 'P without direction'],
  ] as const;
  const set = (changes: { [name: string]: unknown }) => work.setAnnotations([id], changes);
  let words = $derived(work.elements.get(id)?.words ?? '');
</script>

{#if own}
  <span>
    Texture
    <Choice
      value={words}
      label="As one types it: Ra 1.6, Ra 3.2 / Ra 0.8 ground"
      typed
      options={RA.map((r) => [r, r] as const)}
      onset={(text: string) => work.act({ act: 'change_texture', ids: [id], text })}
      after=","
    />
    <Choice
      value={MADE.find(([k]) => k === own.made)?.[1] ?? ''}
      label="How it is made"
      options={MADE}
      onset={(made) => set({ made })}
      after=", lay"
    />
    <Choice
      value={LAYS.find(([k]) => k === (own.lay ?? ''))?.[1] ?? ''}
      label="Direction of lay"
      options={LAYS}
      onset={(lay) => set({ lay })}
      after=","
    />
    <Choice
      value={own.all_round ? 'all round' : 'here only'}
      label="How far it holds"
      options={[
        ['here', 'here only'],
        ['round', 'all round'],
      ]}
      onset={(v: string) => set({ all_round: v === 'round' })}
      after=","
    />
    <Choice
      value={own.seated ? 'on the outline' : 'on a leader'}
      label="Where it stands"
      options={[
        ['seat', 'on the outline'],
        ['lead', 'on a leader'],
      ]}
      onset={(v: string) => set({ seated: v === 'seat' })}
      after="."
    />
  </span>
{/if}
