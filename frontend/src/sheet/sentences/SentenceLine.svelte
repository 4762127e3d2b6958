<script lang="ts">
  import offered from '../../api/offered.json';
  import type { components } from '../../api/schema';
  import { counted, SCALES, scaled } from '../../lib/format';
  import { interaction } from '../interaction.svelte';
  import Choice from './Choice.svelte';
  import { kinds } from '../kinds';
  import { nounsOf } from '../offers';
  import { selected } from '../selection.svelte';
  import { work } from '../work.svelte';
  import TitleCell from './TitleCell.svelte';
  import { titling } from '../titling.svelte';
  import WritingSlip from './WritingSlip.svelte';

  type Size = components['schemas']['Sheet']['size'] & string;

  let drawing = $derived(work.state?.document);
  let writing = $derived(interaction.doing.kind === 'making' && !!interaction.doing.making.written?.());
  let element = $derived(work.elements.get(selected.one));
  let Sentence = $derived(element && kinds.get(element.kind)?.sentence);
  const plain = <N extends string>(names: readonly N[]) => names.map((n) => [n, n] as const);
  const sizes = $derived(offered.sizes[drawing?.standard ?? 'ISO'] as Size[]);
  const chosenOf = (figures: number[]) => [
    ['0', 'by its size'] as const,
    ...figures.map((n) => [String(n), `${n} mm`] as const),
  ];
  const FONTS = {
    upright: 'upright, ISO 3098',
    sloped: 'sloped by 75°, ISO 3098',
    plain: 'plain, sans serif',
  };
  const conventions = (changes: { wide?: number; lettering?: number; font?: keyof typeof FONTS }) =>
    work.operation({ op: 'set_sheet', sheet: work.sheetId, ...changes });
  const change = (changes: Omit<components['schemas']['ChangeSheet'], 'act' | 'sheet'>) =>
    work.act({ act: 'change_sheet', sheet: work.sheetId, ...changes });
</script>

<footer aria-label="Sentence line">
  {#if titling.on}
    <TitleCell />
  {:else if writing}
    <WritingSlip />
  {:else if element && Sentence}
    <Sentence id={element.id} />
  {:else if element}
    <span>A {element.words}, tied to the part. It follows its view.</span>
  {:else if selected.ids.length > 1}
    <span>{nounsOf(selected.ids)}. Arrow keys move them, Delete removes them, each in one step.</span>
  {:else if selected.targets.length}
    <span
      >{selected.targets.map((t) => t.words).join(' and ')}. Pull it away, or click a second place, to state a
      size.</span
    >
  {:else if drawing && work.sheet}
    <span>
      Sheet {#if work.sheets.length > 1}
        {work.sheetNumber} of {work.sheets.length},
        <Choice
          value={work.sheet.name || 'without a name'}
          text={work.sheet.name ?? ''}
          label="Name of the sheet"
          typed
          onset={(v: string) => work.operation({ op: 'set_sheet', sheet: work.sheetId, name: v.trim() })}
          after=","
        />{/if}
      <Choice
        value={(work.sheet.size ?? 'A3').replace('x', ' × ')}
        text={work.sheet.size ?? 'A3'}
        label="Sheet size, or both sides in mm, such as 420 × 1200"
        typed
        options={plain(sizes)}
        onset={(v: string) =>
          change({
            size: v.replace(/\s|mm/g, '').toUpperCase().replace(/[X×*]/, 'x'),
          })}
      />
      <Choice
        value={work.sheet.landscape ? 'lying' : 'upright'}
        label="Direction"
        options={plain(['lying', 'upright'])}
        onset={(v) => change({ landscape: v === 'lying' })}
        after=","
      /> scale <Choice
        value={work.ink?.scale_text ?? ''}
        label="Scale"
        typed
        options={plain(SCALES)}
        onset={(v) => scaled(v, (s) => change({ scale: s }))}
        after=","
      />
      <Choice
        value={`${drawing.angle} angle`}
        label="Projection"
        options={[
          ['first', 'first angle'],
          ['third', 'third angle'],
        ] as const}
        onset={(v) => change({ angle: v })}
        after=","
      />
      <Choice
        value={drawing.standard ?? 'ISO'}
        label="Conventions"
        options={plain(['ISO', 'ASME'] as const)}
        onset={(v) => change({ standard: v, size: offered.usual[v].size as Size })}
      /> conventions, in
      <Choice
        value={drawing.unit ?? 'mm'}
        label="Units"
        options={plain(['mm', 'inch'] as const)}
        onset={(v) => change({ unit: v })}
        after="."
      />
      Wide lines
      <Choice
        value={drawing.wide ? `${drawing.wide} mm` : 'by its size'}
        label="Width of wide lines on all sheets"
        options={chosenOf(offered.wide)}
        onset={(v) => conventions({ wide: Number(v) })}
        after=","
      /> lettering
      <Choice
        value={drawing.lettering ? `${drawing.lettering} mm` : 'by its size'}
        label="Height of lettering on all sheets"
        options={chosenOf(offered.lettering)}
        onset={(v) => conventions({ lettering: Number(v) })}
        after=","
      />
      <Choice
        value={drawing.font ?? 'upright'}
        label="Form of lettering on all sheets"
        options={offered.fonts.map((f): [string, string] => [f, FONTS[f as keyof typeof FONTS] ?? f])}
        onset={(font) => conventions({ font: font as keyof typeof FONTS })}
        after="."
      />
      {#if work.sizes.length}
        Sizes look like
        <Choice
          value={drawing.style || 'the standard'}
          label="Style of all sizes that have none of their own"
          options={[
            ['', 'the standard'],
            ...plain(offered.styles),
            ...(drawing.styles ?? []).map((s): [string, string] => [s.name, s.name]),
          ]}
          onset={(v) => work.operation({ op: 'set_styles', style: v })}
          after="."
        />
      {/if}
      {#if work.views.some((v) => v.kind === 'section')}
        Letters without <Choice
          value={drawing.letters_left_out || 'exception'}
          label="Letters that sections do not get"
          typed
          onset={(v: string) =>
            work.operation({ op: 'set_letters', left_out: v.toUpperCase().replace(/[^A-Z]/g, '') })}
          after="."
        />
      {/if}
      {counted(work.views.length, 'view')}, {counted(work.sizes.length, 'size')}.
    </span>
  {/if}
  <span class="place"
    >x {interaction.pointer[0].toFixed(1)}&ensp;y {((work.ink?.height ?? 0) - interaction.pointer[1]).toFixed(
      1,
    )} mm</span
  >
</footer>

<style>
  footer {
    grid-column: 1/3;
    background: var(--wash);
    border-top: 1px solid var(--rule);
    display: flex;
    align-items: center;
    /* a long sentence grows upward, over the board, which stays as it is */
    align-self: end;
    min-height: 52px;
    max-height: 40vh;
    overflow-y: auto;
    z-index: 9;
    padding: 3px 18px;
    gap: 18px;
    font-size: 16.5px;
  }
  .place {
    margin-left: auto;
    color: var(--ink2);
    font-size: 14px;
    white-space: nowrap;
  }
</style>
