<script lang="ts">
  import type { components } from '../../api/schema';
  import { millimetres, named } from '../../lib/format';
  import Choice from '../sentences/Choice.svelte';
  import Either from '../sentences/Either.svelte';
  import LookFrame from './LookFrame.svelte';
  import { work } from '../work.svelte';

  type Style = components['schemas']['DimensionStyle'];

  /** The look of sizes in one sentence; each change shows on the drawing at once. */
  let styles = $derived<Style[]>(work.state?.document.styles ?? []);
  let style = $derived<Style>(styles.find((s) => s.name === work.styling) ?? { name: work.styling });
  const set = (changes: Partial<Style>) =>
    work.operation({
      op: 'set_styles',
      styles: [...styles.filter((s) => s.name !== style.name), { ...style, ...changes }],
    });
  const length = millimetres;
  const mm = (n: number | null | undefined) => (n == null ? 'by the standard' : `${n} mm`);
  const ARROWS: [string, string][] = [
    ['filled', 'filled arrows'],
    ['closed', 'closed arrows'],
    ['open', 'open arrows'],
    ['stroke', 'oblique strokes'],
    ['dot', 'dots'],
  ];
  const TEXT: [string, string][] = [
    ['auto', 'by the standard'],
    ['above', 'above the line, along it'],
    ['level', 'level, in a gap of the line'],
  ];
  const CROSSINGS: [string, string][] = [
    ['whole', 'whole'],
    ['arrows', 'broken at arrowheads of others'],
    ['lines', 'broken where the line of another size crosses'],
  ];
  const ANGLES: [string, string][] = ['15', '20', '30', '90'].map((n) => [n, `${n}°`]);
  const DECIMALS: [string, string][] = [
    ['', 'as needed'],
    ...['0', '1', '2', '3', '4'].map((n): [string, string] => [n, n]),
  ];
</script>

{#snippet lengthOf(
  label: string,
  key: 'arrow_length' | 'lettering' | 'gap' | 'overrun' | 'first_row' | 'row',
)}
  <Choice
    value={mm(style[key])}
    {label}
    typed
    options={[['', 'by the standard']]}
    onset={(v: string) => set({ [key]: length(v) })}
    after=","
  />
{/snippet}

<LookFrame
  label="Look of sizes"
  whole={work.state?.document.style === style.name}
  onwhole={() => work.operation({ op: 'set_styles', style: style.name })}
  onclose={() => (work.styling = '')}
>
  Style <b>{style.name}</b>:
  <Choice
    value={named(ARROWS, style.arrow)}
    label="Ends of dimension lines"
    options={ARROWS}
    onset={(v) => set({ arrow: v as Style['arrow'] })}
    after=","
  />
  their length {@render lengthOf('Length of arrows, mm', 'arrow_length')}
  their flanks at
  <Choice
    value={`${style.arrow_angle ?? 20}°`}
    label="Degrees between the flanks of an arrow, 10 to 90"
    typed
    options={ANGLES}
    onset={(v: string) => {
      const n = length(v);
      if (n !== null) void set({ arrow_angle: n });
    }}
    after=","
  />
  lettering {@render lengthOf('Height of lettering, mm', 'lettering')}
  text
  <Choice
    value={named(TEXT, style.text)}
    label="Where the text stands"
    options={TEXT}
    onset={(v) => set({ text: v as Style['text'] })}
    after=","
  />
  extension lines
  <Choice
    value={named(CROSSINGS, style.crossings)}
    label="Extension lines where they cross other sizes"
    options={CROSSINGS}
    onset={(v) => set({ crossings: v as Style['crossings'] })}
    after=","
  />
  gap at the part {@render lengthOf('Gap between the part and extension lines, mm', 'gap')}
  overrun {@render lengthOf('How far extension lines go beyond, mm', 'overrun')}
  first row {@render lengthOf('First row from the part, mm', 'first_row')}
  further rows {@render lengthOf('Between further rows, mm', 'row')}
  decimals
  <Choice
    value={style.decimals == null ? 'as needed' : String(style.decimals)}
    label="Decimals at most"
    options={DECIMALS}
    onset={(v) => set({ decimals: v === '' ? null : Number(v) })}
  />
  <Either
    on={!!style.trailing_zeros}
    words={['without trailing zeros', 'with trailing zeros']}
    label="Trailing zeros"
    onset={(trailing_zeros) => set({ trailing_zeros })}
    after=","
  /> decimal sign
  <Choice
    value={style.decimal_sign === ',' ? 'a comma' : 'a point'}
    label="Decimal sign"
    options={[
      ['.', 'a point'],
      [',', 'a comma'],
    ]}
    onset={(v) => set({ decimal_sign: v as '.' | ',' })}
    after=","
  /> angles in
  <Choice
    value={style.angles === 'minutes' ? 'degrees, minutes, seconds' : 'degrees'}
    label="Angles"
    options={[
      ['degrees', 'degrees'],
      ['minutes', 'degrees, minutes, seconds'],
    ]}
    onset={(v) => set({ angles: v as Style['angles'] })}
    after=","
  /> inches as
  <Choice
    value={style.inches ?? 'decimal'}
    label="Inches"
    options={[
      ['decimal', 'decimal'],
      ['fraction', 'fraction'],
      ['feet', 'feet'],
    ]}
    onset={(v) => set({ inches: v as Style['inches'] })}
    after=","
  />
  <Either
    on={!!style.second_unit}
    words={['one unit', 'the other unit in brackets']}
    label="Second unit"
    onset={(second_unit) => set({ second_unit })}
    after="."
  />
</LookFrame>

<style>
  b {
    font-weight: 500;
  }
</style>
