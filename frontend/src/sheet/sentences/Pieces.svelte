<script lang="ts">
  import type { Point, View, ViewJson } from '../../api/client';
  import Choice from './Choice.svelte';
  import { work } from '../work.svelte';

  /** What is kept of a view, what is taken out of it, and how it is turned. */
  let { view, shown }: { view: View; shown: ViewJson } = $props();
  /** What the outline of a detail or crop ends with. */
  const EDGES = [
    ['plain', 'its outline drawn'],
    ['ragged', 'an irregular edge'],
    ['none', 'no edge drawn'],
  ] as const;
  const BREAKS = [
    ['auto', 'as the part is there'],
    ['zigzag', 'zigzag lines'],
    ['freehand', 'freehand lines'],
    ['round', 'as a round bar'],
    ['tube', 'as a tube'],
  ] as const;
  let outline = $derived(view.kind === 'detail' ? view.outline : view.crop?.outline);
  let edge = $derived(view.kind === 'detail' ? (view.edge ?? 'plain') : (view.crop?.edge ?? 'ragged'));
  /** What the ends of the stretches keep their distance from. */
  let heldTo = $derived([...new Set(shown.breaks.flatMap((b) => b.about))].slice(0, 3));
  const size = (n: number) => `${Math.round(n * 2000) / 1000}`;

  function setEdge(v: (typeof EDGES)[number][0]) {
    if (view.kind === 'detail') return work.setView(view.id, { edge: v });
    return work.setView(view.id, { crop: { edge: v } });
  }

  /** How wide an outline is, mm of the part: one figure, or width and height. */
  function setSize(text: string) {
    const [a, b] = text.split(/[x×;/]/).map((t) => Number(t.replace(',', '.').replace(/[^0-9.]/g, '')) / 2);
    if (!(a > 0) || !outline) return;
    const half: Point = [a, b > 0 ? b : outline.form === 'round' ? a : outline.half![1]];
    const changed = { outline: { half } };
    return work.setView(view.id, view.kind === 'detail' ? changed : { crop: changed });
  }

  const setBreak = (changes: Partial<NonNullable<View['breaks']>[number]>) =>
    work.setView(view.id, { breaks: (view.breaks ?? []).map((b) => ({ ...b, ...changes })) });
</script>

{#if outline}
  {view.kind === 'detail' ? 'within' : 'cropped to'} an outline
  {#if outline.half && !outline.points?.length}
    <Choice
      value={outline.form === 'round' && outline.half?.[0] === outline.half?.[1]
        ? `Ø${size(outline.half![0])}`
        : `${size(outline.half![0])} × ${size(outline.half![1])}`}
      label="Size of the outline, mm of the part"
      typed
      onset={setSize}
      after={shown.outline?.about ? '' : ','}
    />
  {/if}
  {#if shown.outline?.about}about the {shown.outline.about},{/if}
  {#if shown.outline?.loose}<em>(lost its feature; drag its middle onto another)</em>{/if}
  <Choice
    value={EDGES.find(([k]) => k === edge)?.[1] ?? ''}
    label="Edge"
    options={EDGES}
    onset={setEdge}
    after=","
  />
{:else if view.crop}
  {view.crop.halves?.every((h) => h) ? 'a quarter' : 'one half'} of it,
{/if}
{#if view.breaks?.length}
  {view.breaks.length === 1 ? 'a stretch' : `${view.breaks.length} stretches`} taken out with a gap of
  <Choice
    value={`${view.breaks[0].gap} mm`}
    label="Gap on the sheet, mm"
    typed
    onset={(v: string) => {
      const gap = Number(v.replace(',', '.').replace(/[^0-9.]/g, ''));
      if (gap > 0) void setBreak({ gap });
    }}
    after=","
  /> ends
  <Choice
    value={BREAKS.find(([k]) => k === (view.breaks?.[0].form ?? 'auto'))?.[1] ?? ''}
    label="Ends of the stretch"
    options={BREAKS}
    onset={(v) => setBreak({ form: v })}
    after=","
  />
  {#if heldTo.length}held to the {heldTo.join(' and the ')},{/if}
{/if}
{#if view.turn || view.kind === 'auxiliary'}
  turned
  <Choice
    value={view.turn ? `by ${view.turn}°` : 'not at all'}
    label="Turned on the sheet, degrees"
    typed
    options={[['0', 'not at all']]}
    onset={(v: string) => {
      const turn = Number(
        v
          .replace(',', '.')
          .replace('−', '-')
          .replace(/[^0-9.-]/g, ''),
      );
      if (Number.isFinite(turn)) void work.setView(view.id, turn ? { turn, tied: false } : { turn });
    }}
    after=","
  />
{/if}
