<script lang="ts">
  import type { Dimension } from '../api/client';
  import Choice from './Choice.svelte';
  import { notices } from '../lib/notices.svelte';
  import { work } from './work.svelte';

  /** A dimension in one sentence, with its changeable parts. */
  let { id }: { id: string } = $props();
  const missing: Partial<Dimension> = {};
  let dimension = $derived<Partial<Dimension>>(work.dimensions.find((d) => d.id === id) ?? missing);
  let element = $derived(work.elements.get(id));
  let text = $derived(element?.words ?? '');
  let tolerance = $derived(dimension.tolerance ?? { kind: 'none', upper: 0, lower: 0 });
  let view = $derived.by(() => {
    const found = work.ink?.views.find((v) => v.id === element?.group);
    return found?.words.replace(/^./, (c) => c.toLowerCase()) ?? '';
  });
  let broken = $derived(!!work.ink?.views.find((v) => v.id === element?.group)?.broken);
  let measured = $derived(dimension.measure ?? '');
  const sign = (x: number) => `${x > 0 ? '+' : x < 0 ? '−' : ''}${Math.abs(x)}`;
  let toleranceWords = $derived(
    tolerance.kind === 'symmetric'
      ? `±${Math.abs(tolerance.upper ?? 0)}`
      : tolerance.kind === 'unequal'
        ? `${sign(tolerance.upper ?? 0)} / ${sign(tolerance.lower ?? 0)}`
        : tolerance.kind === 'limits'
          ? `limits ${sign(tolerance.upper ?? 0)} / ${sign(tolerance.lower ?? 0)}`
          : 'no tolerance',
  );
  const names = ['no', 'one', 'two', 'three', 'four', 'five', 'six'];
  let decimalWords = $derived(
    dimension.decimals == null
      ? 'decimals as needed'
      : `${names[dimension.decimals]} decimal${dimension.decimals === 1 ? '' : 's'}`,
  );
  const set = (changes: { [name: string]: unknown }) => work.setAnnotations([id], changes);

  function setTolerance(typed: string) {
    const raw = typed.trim().toLowerCase().replaceAll('−', '-').replaceAll(',', '.');
    if (!raw || raw === 'none' || raw === 'no tolerance')
      return set({ tolerance: { kind: 'none', upper: 0, lower: 0 } });
    const limits = raw.startsWith('limits');
    const figures = (raw.replace('limits', '').match(/[-+]?\d*\.?\d+/g) ?? []).map(Number);
    if (figures.length === 1 && !limits)
      return set({
        tolerance: { kind: 'symmetric', upper: Math.abs(figures[0]), lower: -Math.abs(figures[0]) },
      });
    if (figures.length === 2) {
      const [a, b] = figures;
      return set({
        tolerance: { kind: limits ? 'limits' : 'unequal', upper: Math.max(a, b), lower: Math.min(a, b) },
      });
    }
    notices.say(
      `“${typed}” is not a tolerance`,
      'Write 0.1 for ±0.1, +0.2 / -0.1, or limits +0.2 / -0.1.',
      true,
    );
  }

  function setCount(typed: string) {
    const count = Number(typed.replace(/×|x|features?/gi, '').trim());
    if (Number.isInteger(count) && count >= 1 && count < 10000) set({ count });
    else notices.say(`“${typed}” is not a count`, 'Write a whole number, such as 6.', true);
  }
</script>

<span>
  {measured[0]?.toUpperCase() + measured.slice(1)}
  <b>{text}</b>,
  <Choice
    value={toleranceWords}
    label="Tolerance: 0.1, or +0.2 / −0.1, or limits +0.2 / −0.1"
    typed
    options={[
      ['none', 'no tolerance'],
      ['0.1', '±0.1'],
      ['0.05', '±0.05'],
      ['+0.1/0', '+0.1 / 0'],
      ['limits +0.1/0', 'limits +0.1 / 0'],
    ]}
    onset={setTolerance}
    after=","
  /> measured on the {view},
  <Choice
    value={decimalWords}
    label="Decimals"
    options={[
      ['', 'decimals as needed'],
      ...names.slice(0, 5).map((n, i): [string, string] => [String(i), `${n} decimal${i === 1 ? '' : 's'}`]),
    ]}
    onset={(v) => set({ decimals: v === '' ? null : Number(v) })}
    after=","
  />
  <Choice
    value={dimension.reference ? 'a reference' : 'not a reference'}
    label="Reference"
    options={[
      ['yes', 'a reference'],
      ['no', 'not a reference'],
    ]}
    onset={(v) => set({ reference: v === 'yes' })}
    after=","
  /> for <Choice
    value={(dimension.count ?? 1) === 1 ? 'one feature' : `${dimension.count} features`}
    label="How many features it stands for"
    typed
    options={[
      ['1', 'one feature'],
      ...['2', '3', '4', '6', '8'].map((n): [string, string] => [n, `${n} features`]),
    ]}
    onset={setCount}
    after=","
  />
  {#if dimension.measure === 'length' || dimension.measure === 'distance'}
    across <Choice
      value={dimension.sign === 'diameter'
        ? 'a diameter'
        : dimension.sign === 'square'
          ? 'a square'
          : 'what it spans'}
      label="What the length is across"
      options={[
        ['auto', 'what it spans'],
        ['diameter', 'a diameter'],
        ['square', 'a square'],
      ]}
      onset={(v) => set({ sign: v })}
      after=","
    />
  {/if}
  before it <Choice
    value={dimension.prefix || 'nothing'}
    label="Prefix"
    typed
    options={[
      ['nothing', 'nothing'],
      ['S', 'S'],
    ]}
    onset={(v) => set({ prefix: v === 'nothing' ? '' : v })}
    after=","
  /> after it <Choice
    value={dimension.suffix || 'nothing'}
    label="Suffix"
    typed
    options={[
      ['nothing', 'nothing'],
      [' THRU', 'THRU'],
      [' TYP', 'TYP'],
    ]}
    onset={(v) => set({ suffix: v === 'nothing' ? '' : v })}
    after=","
  /> arrows <Choice
    value={dimension.arrows === 'auto' ? 'by room' : (dimension.arrows ?? 'by room')}
    label="Arrows"
    options={[
      ['auto', 'by room'],
      ['inside', 'inside'],
      ['outside', 'outside'],
    ]}
    onset={(v) => set({ arrows: v })}
    after={broken ? ',' : '.'}
  />
  {#if broken}
    its line <Choice
      value={dimension.zigzag ? 'with a zigzag at the break' : 'unbroken'}
      label="Its line where a stretch is taken out"
      options={[
        ['no', 'unbroken'],
        ['yes', 'with a zigzag at the break'],
      ]}
      onset={(v) => set({ zigzag: v === 'yes' })}
      after="."
    />
  {/if}
</span>

<style>
  b {
    font-family: osifont;
    font-weight: 400;
  }
</style>
