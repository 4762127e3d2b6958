<script lang="ts">
  import type { LocalCut, View } from '../../api/client';
  import Choice from './Choice.svelte';
  import { work } from '../work.svelte';

  /** Where a view is cut open locally, and how deep. */
  let { view }: { view: View } = $props();
  /** How deep a local cut goes. */
  function setDepth(k: number, text: string) {
    const depth = Number(text.replace(',', '.').replace(/[^0-9.-]/g, ''));
    if (text !== 'box' && !Number.isFinite(depth)) return;
    const change: Partial<LocalCut> =
      text === 'box' ? { tie: { ref: '', at: 'box' }, depth: 0 } : { tie: null, depth };
    return work.setView(view.id, {
      local_cuts: (view.local_cuts ?? []).map((c, i) => (i === k ? { ...c, ...change } : c)),
    });
  }
</script>

{#if view.local_cuts?.length}
  <Choice
    value={view.local_cuts.length === 1 ? 'cut open locally' : `cut open in ${view.local_cuts.length} places`}
    label="Local cuts"
    options={[
      ...view.local_cuts.map((c, k): [string, string] => [c.id, `close up place ${k + 1}`]),
      ...(view.local_cuts.length > 1 ? [['all', 'close up all'] as [string, string]] : []),
    ]}
    onset={(v) =>
      work.setView(view.id, {
        local_cuts: v === 'all' ? [] : (view.local_cuts ?? []).filter((c) => c.id !== v),
      })}
    after=","
  />
{/if}
{#each view.local_cuts ?? [] as c, k (c.id)}
  <Choice
    value={c.tie ? (c.tie.at === 'box' ? 'to the middle of the part' : 'to a feature') : `to ${c.depth} mm`}
    label="Depth of the local cut: mm toward the viewer from the middle of the part"
    typed
    options={[['box', 'to the middle of the part']]}
    onset={(v: string) => setDepth(k, v)}
    after=","
  />
{/each}
