<script lang="ts">
  import type { AnnotationChanges, Dimension } from '../../api/client';
  import type { components } from '../../api/schema';
  import Choice from './Choice.svelte';
  import Either from './Either.svelte';
  import { notices } from '../../lib/notices.svelte';
  import { api } from '../../api/client';
  import Plainly from './Plainly.svelte';
  import { AWAY, isOut } from '../kinds/aside';
  import { building } from '../../look/building.svelte';
  import { figure, figureTyped } from '../../lib/format';
  import { work } from '../work.svelte';

  /** A dimension in one sentence, with its changeable parts. */
  let { id }: { id: string } = $props();
  const missing: Partial<Dimension> = {};
  let dimension = $derived<Partial<Dimension>>(work.dimensions.find((d) => d.id === id) ?? missing);
  let element = $derived(work.elements.get(id));
  let text = $derived(element?.words ?? '');
  const NONE: NonNullable<Dimension['tolerance']> = { kind: 'none', upper: 0, lower: 0 };
  let tolerance = $derived(dimension.tolerance ?? NONE);
  let view = $derived.by(() => {
    const found = work.ink?.views.find((v) => v.id === element?.group);
    return found?.words.replace(/^./, (c) => c.toLowerCase()) ?? '';
  });
  let broken = $derived(!!work.ink?.views.find((v) => v.id === element?.group)?.broken);
  let pictorial = $derived.by(() => {
    const own = work.state?.document.sheets?.flatMap((s) => s.views ?? []).find((v) => v.id === dimension.on);
    return own?.kind === 'pictorial' || own?.kind === 'free';
  });
  const WAYS: [string, string][] = [
    ['aligned', 'straight from end to end'],
    ['horizontal', 'along the level of the part'],
    ['vertical', 'upright on the part'],
    ['inward', 'along its depth'],
  ];
  const MEASURES: { [measure: string]: string } = {
    arc: 'length of an arc',
    chord: 'chord',
    chamfer: 'chamfer',
    slope: 'slope',
    taper: 'taper',
    depth: 'depth',
  };
  let measured = $derived(dimension.measure ?? '');
  let named = $derived(MEASURES[measured] ?? measured);
  const sign = (x: number) => `${x > 0 ? '+' : x < 0 ? '−' : ''}${Math.abs(x)}`;
  const SHOWN = {
    class: '',
    deviations: ', as deviations',
    both: ' with deviations',
    limits: ' with limits',
  };
  let toleranceWords = $derived(
    tolerance.kind === 'symmetric'
      ? `±${Math.abs(tolerance.upper ?? 0)}`
      : tolerance.kind === 'unequal'
        ? `${sign(tolerance.upper ?? 0)} / ${sign(tolerance.lower ?? 0)}`
        : tolerance.kind === 'limits'
          ? `limits ${sign(tolerance.upper ?? 0)} / ${sign(tolerance.lower ?? 0)}`
          : tolerance.kind === 'fit'
            ? `${tolerance.fit}${SHOWN[tolerance.shown ?? 'class']}`
            : tolerance.kind === 'minimum' || tolerance.kind === 'maximum'
              ? `${tolerance.kind} only`
              : 'no tolerance',
  );
  const names = ['no', 'one', 'two', 'three', 'four', 'five', 'six'];
  let decimalWords = $derived(
    dimension.decimals == null
      ? 'decimals as needed'
      : `${names[dimension.decimals]} decimal${dimension.decimals === 1 ? '' : 's'}`,
  );
  const CHAMFERS = [
    ['angle', 'with its angle'],
    ['letter', 'with C'],
    ['lengths', 'by both lengths'],
  ] as const;
  const ENDS = ['its left or lower arrow', 'its other arrow'] as const;
  const TEXTS: [string, string][] = [
    ['auto', 'as its style has it'],
    ['above', 'above its line, along it'],
    ['level', 'level, in a gap of its line'],
    ['aside', 'out at the end of a leader'],
  ];
  /** Both arrows, the text and its leader are chosen of sizes that have a line with two ends. */
  let ended = $derived(
    ['length', 'distance', 'angle', 'arc', 'chord', 'depth', 'chamfer'].includes(dimension.measure ?? '') ||
      dimension.sign === 'diameter',
  );
  let ends = $derived([dimension.ends?.[0] ?? 'auto', dimension.ends?.[1] ?? 'auto']);
  let aside = $derived(isOut(dimension));
  const set = (changes: AnnotationChanges) => work.setAnnotations([id], changes);

  const setTolerance = (text: string) => work.act({ act: 'state_tolerance', ids: [id], text });

  type Said = components['schemas']['SaidJson'];
  /** What holds for it besides what it says. */
  let said = $state.raw<Said>();
  $effect(() => {
    const [own, drawing] = [id, work.id];
    void work.state;
    // what comes after another is selected is not for it
    let live = true;
    api.said(drawing, own).then(
      (found) => live && (said = found),
      () => live && (said = undefined),
    );
    return () => (live = false);
  });

  async function build(part: string, name: string, text: string) {
    const value = figureTyped(text);
    if (value === null) return notices.say(`“${text}” is no figure`, 'Write a number, such as 42.5.', true);
    const by = await building.part(part, { [name]: value });
    if (by && (await work.act({ act: 'take_revision', part, by })))
      notices.say('The part is built anew', 'It is the next revision; other drawings of it offer it.');
  }

  function setCount(typed: string) {
    const count = Number(typed.replace(/×|x|features?/gi, '').trim());
    if (Number.isInteger(count) && count >= 1 && count < 10000) set({ count });
    else notices.say(`“${typed}” is not a count`, 'Write a whole number, such as 6.', true);
  }
</script>

<span>
  {named[0]?.toUpperCase() + named.slice(1)}
  <b>{text}</b>,
  <Choice
    value={toleranceWords}
    label="Tolerance: ±0.1, +0.2/−0.1, limits +0.2/−0.1, H7, H7 with deviations, min, max"
    typed
    options={[
      ['none', 'no tolerance'],
      ['±0.1', '±0.1'],
      ['+0.1/0', '+0.1 / 0'],
      ['H7', 'H7'],
      ['h6', 'h6'],
      ['g6', 'g6'],
      ...((tolerance.kind === 'fit' && tolerance.fit
        ? [
            [`${tolerance.fit} with deviations`, 'with deviations'],
            [`${tolerance.fit} limits`, 'with limits'],
            [`${tolerance.fit} deviations`, 'as deviations alone'],
          ]
        : []) as [string, string][]),
    ]}
    onset={setTolerance}
    after=","
  />
  {#if said?.general || said?.fit}<span class="dim">({said.fit || said.general}),</span>{/if}
  {#if said?.named}
    {@const own = said.named}
    <span title={own.says}>the size {own.name} of the part,</span>
    {#if own.written}
      <span class="dim">worked out as {own.written},</span>
    {:else}
      built as <Choice
        value={figure(own.value)}
        label={`${own.name} of the part, ${named === 'angle' ? 'degrees' : 'mm'}: it is built anew`}
        typed
        onset={(text) => build(own.part, own.name, text)}
        after=","
      />
    {/if}
    {#if building.now}<span class="dim">building {building.now} …</span>{/if}
  {/if}
  measured on the {view},
  {#if pictorial && dimension.measure === 'angle'}
    <Either
      on={!!dimension.on_paper}
      words={['as it is in space', 'as it lies on the paper']}
      label="What the angle says: that of the edges in space, or that of their pictures"
      onset={(on_paper) => set({ on_paper })}
      after=","
    />
  {:else if pictorial && !dimension.along && (dimension.measure === 'length' || (dimension.measure === 'distance' && dimension.anchors?.every((a) => a.at !== 'line' && a.at !== 'axis')))}
    <Choice
      value={WAYS.find(([own]) => own === (dimension.direction ?? 'aligned'))?.[1] ?? ''}
      label="Along which direction of the part"
      options={WAYS}
      onset={(direction) => set({ direction: direction as Dimension['direction'] })}
      after=","
    />
  {/if}
  {#if dimension.along}
    <Choice
      value="along what was picked"
      label="What it is measured along"
      options={[
        ['along', 'along what was picked'],
        ['straight', 'straight from place to place'],
      ]}
      onset={(v) => v === 'straight' && set({ along: '' })}
      after=","
    />
  {/if}
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
  <Either
    on={!!dimension.reference}
    words={['not a reference', 'a reference']}
    label="Reference"
    onset={(reference) => set({ reference })}
    after=","
  />
  <Either
    on={!!dimension.exact}
    words={['with its tolerances', 'theoretically exact']}
    label="Theoretically exact, in a box"
    onset={(exact) => set({ exact })}
    after=","
  /> for <Choice
    value={(dimension.count ?? 1) === 1 ? 'one feature' : `${dimension.count} features`}
    label="How many features it stands for"
    typed
    options={[
      ['1', 'one feature'],
      ...[...new Set([said?.alike ?? 1, 2, 3, 4, 6, 8])]
        .filter((n) => n > 1)
        .map((n): [string, string] => [
          String(n),
          n === said?.alike ? `all ${n} that are alike on the part` : `${n} features`,
        ]),
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
          : dimension.sign === 'thickness'
            ? 'a thickness'
            : 'what it spans'}
      label="What the length is across"
      options={[
        ['auto', 'what it spans'],
        ['diameter', 'a diameter'],
        ['square', 'a square'],
        ['thickness', 'a thickness'],
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
  /> above it <Choice
    value={dimension.above || 'nothing'}
    label="Text above the figure"
    typed
    options={[['nothing', 'nothing']]}
    onset={(v) => set({ above: v === 'nothing' ? '' : v })}
    after=","
  /> below it <Choice
    value={dimension.below || 'nothing'}
    label="Text below the figure"
    typed
    options={[['nothing', 'nothing']]}
    onset={(v) => set({ below: v === 'nothing' ? '' : v })}
    after=","
  />
  {#if measured === 'chamfer'}
    written <Choice
      value={CHAMFERS.find(([k]) => k === (dimension.chamfer ?? 'angle'))?.[1] ?? ''}
      label="How the chamfer is written"
      options={CHAMFERS}
      onset={(v) => set({ chamfer: v })}
      after=","
    />
  {/if}
  {#if measured === 'radius'}
    its line <Either
      on={!!dimension.jog}
      words={['from the centre', 'shortened, with a jog']}
      label="Line of the radius"
      onset={(jog) => set({ jog })}
      after=","
    />
  {:else if measured === 'diameter' || dimension.sign === 'diameter'}
    its line <Either
      on={!!dimension.half}
      words={['whole', 'half, with one arrow']}
      label="Line of the diameter"
      onset={(half) => set({ half })}
      after=","
    />
  {/if}
  {#if said?.styles.length}
    in the style <Choice
      value={dimension.style || "the drawing's"}
      label="Style"
      options={[['', "the drawing's"], ...said.styles.map((n): [string, string] => [n, n])]}
      onset={(v) => set({ style: v })}
      after=","
    />
  {/if}
  arrows <Choice
    value={dimension.arrows === 'auto' ? 'by room' : (dimension.arrows ?? 'by room')}
    label="Arrows"
    options={[
      ['auto', 'by room'],
      ['inside', 'inside'],
      ['outside', 'outside'],
    ]}
    onset={(v) => set({ arrows: v, ends: [] })}
    after=","
  />
  {#if ended}
    {#each ENDS as name, k (name)}
      {name}
      <Choice
        value={ends[k] === 'auto' ? 'as both are' : ends[k]}
        label={name.replace(/^its /, '').replace(/^./, (c) => c.toUpperCase())}
        options={[
          ['auto', 'as both are'],
          ['inside', 'inside'],
          ['outside', 'outside'],
        ]}
        onset={(v) => set({ ends: [0, 1].map((i) => (i === k ? v : ends[i])) as Dimension['ends'] })}
        after=","
      />
    {/each}
    its text
    <Choice
      value={TEXTS.find(([own]) => own === (aside ? 'aside' : (dimension.text ?? 'auto')))?.[1] ?? ''}
      label="Where its text stands"
      options={TEXTS}
      onset={(v) =>
        v === 'aside'
          ? aside || set({ place: { aside: AWAY } })
          : set({ text: v as Dimension['text'], place: { aside: [0, 0] } })}
      after={broken ? ',' : '.'}
    />
  {/if}
  {#if broken}
    its line <Either
      on={!!dimension.zigzag}
      words={['unbroken', 'with a zigzag at the break']}
      label="Its line where a stretch is taken out"
      onset={(zigzag) => set({ zigzag })}
      after="."
    />
  {/if}
  <Plainly words={said?.explained ?? ''} />
</span>

<style>
  .dim {
    color: var(--ink2);
  }
  b {
    font-family: osifont, osifont-wide, osifont-chinese;
    font-weight: 400;
  }
</style>
