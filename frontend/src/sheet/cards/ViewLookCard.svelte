<script lang="ts">
  import type { components } from '../../api/schema';
  import { millimetres, named } from '../../lib/format';
  import Choice from '../sentences/Choice.svelte';
  import LookFrame from './LookFrame.svelte';
  import { work } from '../work.svelte';

  type Style = components['schemas']['ViewStyle'];

  /** The look of cutting lines, rings, arrows of sight and captions in one sentence; each change shows on the drawing at once. */
  let styles = $derived<Style[]>(work.state?.document.view_styles ?? []);
  let style = $derived<Style>(styles.find((s) => s.name === work.viewStyling) ?? { name: work.viewStyling });
  const set = (changes: Partial<Style>) =>
    work.operation({
      op: 'set_styles',
      view_styles: [...styles.filter((s) => s.name !== style.name), { ...style, ...changes }],
    });
  const mm = (n: number | null | undefined) => (n == null ? 'by the standard' : `${n} mm`);
  const LINES: [string, string][] = [
    ['chain', 'a chain line with wide ends'],
    ['ends', 'its ends and turns alone'],
    ['wide', 'wide all along'],
  ];
  const ARROWS: [string, string][] = [
    ['filled', 'filled'],
    ['closed', 'closed'],
    ['open', 'open'],
  ];
  const PLACES: [string, string][] = [
    ['above', 'above the view'],
    ['below', 'below it'],
  ];
  const WORDS: [string, string][] = [
    ['auto', 'as the standard has it'],
    ['letters', 'letters alone'],
    ['named', 'section, detail or view before the letter'],
  ];
  const SCALES: [string, string][] = [
    ['auto', 'where it is not the main one'],
    ['always', 'always'],
    ['never', 'never'],
  ];
</script>

<LookFrame
  label="Look of sections, details and captions"
  whole={work.state?.document.view_style === style.name}
  onwhole={() => work.operation({ op: 'set_styles', view_style: style.name })}
  onclose={() => (work.viewStyling = '')}
>
  Look <b>{style.name}</b>: the line of a section is
  <Choice
    value={named(LINES, style.cutting_line)}
    label="Line of a section"
    options={LINES}
    onset={(v) => set({ cutting_line: v as Style['cutting_line'] })}
    after=","
  /> arrows of sight
  <Choice
    value={named(ARROWS, style.arrow)}
    label="Form of arrows of sight"
    options={ARROWS}
    onset={(v) => set({ arrow: v as Style['arrow'] })}
    after=","
  /> their length
  <Choice
    value={mm(style.arrow_length)}
    label="Length of arrows of sight, mm"
    typed
    options={[['', 'by the standard']]}
    onset={(v: string) => set({ arrow_length: millimetres(v) })}
    after=","
  /> letters and captions
  <Choice
    value={mm(style.letters)}
    label="Height of letters and captions, mm"
    typed
    options={[['', 'by the standard']]}
    onset={(v: string) => set({ letters: millimetres(v) })}
    after=","
  /> captions
  <Choice
    value={named(PLACES, style.caption)}
    label="Where captions stand"
    options={PLACES}
    onset={(v) => set({ caption: v as Style['caption'] })}
    after=","
  /> saying
  <Choice
    value={named(WORDS, style.words)}
    label="What captions say"
    options={WORDS}
    onset={(v) => set({ words: v as Style['words'] })}
    after=","
  /> with the scale
  <Choice
    value={named(SCALES, style.scale)}
    label="Scale in captions"
    options={SCALES}
    onset={(v) => set({ scale: v as Style['scale'] })}
    after="."
  />
</LookFrame>

<style>
  b {
    font-weight: 500;
  }
</style>
