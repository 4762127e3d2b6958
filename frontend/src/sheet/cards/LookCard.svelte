<script lang="ts">
  import type { components } from '../../api/schema';
  import Choice from '../sentences/Choice.svelte';
  import Either from '../sentences/Either.svelte';
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
  const length = (v: string): number | null => {
    const n = Number(v.replace(',', '.').replace(/[^0-9.]/g, ''));
    return v === '' || !Number.isFinite(n) ? null : n;
  };
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
  const named = (list: [string, string][], key: string | undefined) =>
    list.find(([k]) => k === key)?.[1] ?? list[0][1];
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

<section class="card over" aria-label="Look of sizes">
  <p>
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
  </p>
  <div class="foot">
    <button
      class="quiet"
      disabled={work.state?.document.style === style.name}
      onclick={() => work.operation({ op: 'set_styles', style: style.name })}
      >{work.state?.document.style === style.name
        ? 'The whole drawing has it'
        : 'For the whole drawing'}</button
    >
    <button class="quiet" onclick={() => (work.styling = '')}>Close</button>
  </div>
</section>

<style>
  .card {
    position: absolute;
    right: 12px;
    bottom: 12px;
    width: 420px;
    background: var(--wash);
    border: 1px solid var(--ink2);
    border-radius: 3px;
    padding: 10px 14px 8px;
    z-index: 4;
    line-height: 1.75;
  }
  b {
    font-weight: 500;
  }
  .foot {
    display: flex;
    justify-content: space-between;
    margin-top: 6px;
  }
</style>
