<script lang="ts">
  import { meshWords, parseScale, SCALES } from '../lib/format';
  import { notices } from '../lib/notices.svelte';
  import Choice from './Choice.svelte';
  import DimensionSentence from './DimensionSentence.svelte';
  import { work } from './work.svelte';

  let drawing = $derived(work.state?.document);
  let view = $derived.by(() => {
    const s = work.selection;
    return s.kind === 'view' ? work.views.find((v) => v.id === s.id) : undefined;
  });
  let shown = $derived(work.ink?.views.find((v) => v.id === view?.id));
  let dimension = $derived.by(() => {
    const s = work.selection;
    return s.kind === 'dimension' ? work.dimensions.find((d) => d.id === s.id) : undefined;
  });
  const plain = (names: string[]): [string, string][] => names.map((n) => [n, n]);
  const sizes = $derived(
    drawing?.standard === 'ASME' ? ['A', 'B', 'C', 'D', 'E'] : ['A4', 'A3', 'A2', 'A1', 'A0'],
  );

  function scaled(text: string, set: (s: number) => unknown) {
    const value = parseScale(text);
    if (value) void set(value);
    else notices.say(`“${text}” is not a scale`, 'Write it as 1:2 or 2:1.', true);
  }
</script>

<footer aria-label="Sentence line">
  {#if view && shown}
    <span>
      {shown.name} view of <b>{shown.part_name}</b>, from {shown.facing}, scale
      <Choice
        value={shown.scale_text}
        label="Scale of this view"
        typed
        options={[['', view.parent ? 'as its parent' : 'as the sheet'], ...plain(SCALES)]}
        onset={(v) =>
          v === ''
            ? work.setView(view!.id, { scale: null })
            : scaled(v, (s) => work.setView(view!.id, { scale: s }))}
        after=","
      /> hidden lines
      <Choice
        value={view.hidden_lines ? 'shown' : 'left out'}
        label="Hidden lines"
        options={plain(['shown', 'left out'])}
        onset={(v) => work.setView(view!.id, { hidden_lines: v === 'shown' })}
        after=","
      /> tones
      <Choice
        value={view.shaded ? 'shaded' : 'none'}
        label="Tones"
        options={plain(['shaded', 'none'])}
        onset={(v) => work.setView(view!.id, { shaded: v === 'shaded' })}
        after=","
      /> tangent edges
      <Choice
        value={view.tangent_edges ?? 'thin'}
        label="Tangent edges"
        options={plain(['shown', 'thin', 'off'])}
        onset={(v) => work.setView(view!.id, { tangent_edges: v })}
        after=","
      />
      {#if view.parent}
        <Choice
          value={view.tied ? 'tied to its parent' : 'untied'}
          label="Alignment"
          options={[
            ['tied', 'tied to its parent'],
            ['untied', 'untied'],
          ]}
          onset={(v) => work.setView(view!.id, { tied: v === 'tied' })}
          after=","
        />
      {/if}
      caption
      <Choice
        value={view.caption || 'none'}
        label="Caption"
        typed
        options={[['none', 'none']]}
        onset={(v) => work.setView(view!.id, { caption: v === 'none' ? '' : v })}
        after="."
      />
      {#if shown.meshed}<em>{meshWords(shown.meshed)}.</em>{/if}
    </span>
  {:else if dimension}
    <DimensionSentence {dimension} />
  {:else if work.selection.kind === 'geometry'}
    <span
      >{work.selection.targets.map((t) => t.words).join(' and ')}. Pull it away, or click a second place, to
      state a size.</span
    >
  {:else if work.selection.kind === 'centre'}
    <span>A centre mark or line, tied to the part. It follows its view.</span>
  {:else if drawing && work.sheet}
    <span>
      Sheet <Choice
        value={work.sheet.size ?? 'A3'}
        label="Sheet size"
        options={plain(sizes)}
        onset={(v) => work.changeSheet({ size: v })}
      />
      <Choice
        value={work.sheet.landscape ? 'lying' : 'upright'}
        label="Direction"
        options={plain(['lying', 'upright'])}
        onset={(v) => work.changeSheet({ landscape: v === 'lying' })}
        after=","
      /> scale <Choice
        value={work.ink?.scale_text ?? ''}
        label="Scale"
        typed
        options={plain(SCALES)}
        onset={(v) => scaled(v, (s) => work.changeSheet({ scale: s }))}
        after=","
      />
      <Choice
        value={`${drawing.angle} angle`}
        label="Projection"
        options={[
          ['first', 'first angle'],
          ['third', 'third angle'],
        ]}
        onset={(v) => work.changeSheet({ angle: v })}
        after=","
      />
      <Choice
        value={drawing.standard ?? 'ISO'}
        label="Conventions"
        options={plain(['ISO', 'ASME'])}
        onset={(v) =>
          work.changeSheet(v === 'ASME' ? { standard: v, size: 'B' } : { standard: v, size: 'A3' })}
      /> conventions, in
      <Choice
        value={drawing.unit ?? 'mm'}
        label="Units"
        options={plain(['mm', 'inch'])}
        onset={(v) => work.changeSheet({ unit: v })}
        after="."
      />
      {work.views.length} views, {work.dimensions.length} sizes.
    </span>
  {/if}
  <span class="place"
    >x {work.pointer[0].toFixed(1)}&ensp;y {((work.ink?.height ?? 0) - work.pointer[1]).toFixed(1)} mm</span
  >
</footer>

<style>
  footer {
    grid-column: 1/3;
    background: var(--wash);
    border-top: 1px solid var(--rule);
    display: flex;
    align-items: center;
    padding: 0 18px;
    gap: 18px;
    font-size: 16.5px;
  }
  b {
    font-weight: 500;
  }
  .place {
    margin-left: auto;
    color: var(--ink2);
    font-size: 14px;
    white-space: nowrap;
  }
</style>
