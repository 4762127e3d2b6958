<script lang="ts">
  import type { HatchChoice } from '../api/client';
  import { meshWords, SCALES, scaled } from '../lib/format';
  import Choice from './Choice.svelte';
  import { viewOf } from './parts_of_views';
  import { work } from './work.svelte';

  /** A view in one sentence, with its changeable parts. */
  let { id: shownId }: { id: string } = $props();
  let id = $derived(viewOf(shownId));
  let view = $derived(work.view(id));
  let shown = $derived(work.ink?.views.find((v) => v.id === id));
  const plain = <N extends string>(names: readonly N[]) => names.map((n) => [n, n] as const);
  const FACES = ['-Y', '+Y', '+Z', '-Z', '-X', '+X'] as const;
  const faceWords = (face: string) => `from ${face.replace('-', '−')}`;
  let bodies = $derived(view?.bodies ?? null);

  function face(v: string) {
    const chosen = FACES.find((f) => f === v);
    const own = work.directions.find((d) => d.name === v);
    if (chosen) void work.act({ act: 'turn_front', view: id, face: chosen });
    else if (own) void work.act({ act: 'turn_front', view: id, toward: own.toward, up: own.up });
  }

  const FORMS = ['the whole part behind it', 'the cut face alone'] as const;
  const MARKS: [string, string][] = [
    ['auto', 'as its place needs it'],
    ['full', 'with arrows and letters'],
    ['line', 'by a line alone'],
    ['off', 'not at all'],
  ];
  const PATTERNS = ['general', 'material', 'steel', 'light', 'copper', 'plastic'] as const;
  let section = $derived(view?.kind === 'section' ? view : undefined);
  let cutBodies = $derived(shown?.bodies ?? []);

  /** A body stays whole, or is cut after all. */
  function setWhole(body: string) {
    const now = view?.whole ?? [];
    return work.setView(id, { whole: now.includes(body) ? now.filter((b) => b !== body) : [...now, body] });
  }

  /** Hatch of a body, in this view or in the whole drawing: a pattern, an angle, a spacing, or none. */
  function setHatch(body: string, text: string) {
    const own = view?.hatches?.find((h) => h.body === body);
    const old = own ?? work.state?.document.hatches?.find((h) => h.body === body) ?? { body };
    const figure = Number(text.replace(/[^0-9.,-]/g, '').replace(',', '.'));
    let next: HatchChoice = { ...old, body, off: false };
    if (text === 'off') next = { ...next, off: true };
    else if (PATTERNS.some((p) => p === text)) next = { ...next, pattern: text as HatchChoice['pattern'] };
    else if (text === 'auto') next = { body };
    else if (/mm/.test(text) && figure > 0) next = { ...next, spacing: figure };
    else if (/[\d]/.test(text) && Number.isFinite(figure)) next = { ...next, angle: figure };
    else return;
    if (own) return work.setView(id, { hatches: [...otherHatches(body), next] });
    return work.operation({ op: 'set_hatch', hatch: next });
  }
  const otherHatches = (body: string) => (view?.hatches ?? []).filter((h) => h.body !== body);

  /** The hatch of a body is that of the whole drawing, or this view's own. */
  function hatchHere(body: string, here: boolean) {
    const now = shown?.hatches.find((h) => h.body === body);
    const own = now && { body, angle: now.angle, spacing: now.spacing, pattern: now.pattern, off: now.off };
    return work.setView(id, { hatches: [...otherHatches(body), ...(here && own ? [own] : [])] });
  }

  const DIMETRIC = [7.181, 41.41];
  let axesWords = $derived.by(() => {
    const [a, b] = view?.kind === 'pictorial' ? (view.angles ?? [30, 30]) : [30, 30];
    if (a === 30 && b === 30) return 'isometric';
    if (Math.abs(a - DIMETRIC[0]) < 0.01 && Math.abs(b - DIMETRIC[1]) < 0.01) return 'dimetric, 1 : 1 : ½';
    return `leaning ${Math.round(a * 100) / 100}° and ${Math.round(b * 100) / 100}°`;
  });

  /** The axes of a pictorial view by how much two of them lean. */
  function setAxes(text: string) {
    const angles = text.split(/[,;\s]+/).map((t) => Number(t.replace('°', '')));
    if (angles.length === 2 && angles.every((a) => a >= 1 && a < 89)) void work.setView(id, { angles });
  }

  /** A body as an adjacent part, or no longer. */
  function setAdjacent(body: string) {
    const now = view?.adjacent ?? [];
    return work.setView(id, {
      adjacent: now.includes(body) ? now.filter((b) => b !== body) : [...now, body],
    });
  }

  /** What the outline of a detail or crop ends with. */
  const EDGES: [string, string][] = [
    ['plain', 'its outline drawn'],
    ['ragged', 'an irregular edge'],
    ['none', 'no edge drawn'],
  ];
  const BREAKS: [string, string][] = [
    ['auto', 'as the part is there'],
    ['zigzag', 'zigzag lines'],
    ['freehand', 'freehand lines'],
    ['round', 'as a round bar'],
    ['tube', 'as a tube'],
  ];
  let outline = $derived(view?.kind === 'detail' ? view.outline : view?.crop?.outline);
  let edge = $derived(view?.kind === 'detail' ? (view.edge ?? 'plain') : (view?.crop?.edge ?? 'ragged'));
  const size = (n: number) => `${Math.round(n * 2000) / 1000}`;

  function setEdge(v: string) {
    if (view?.kind === 'detail') return work.setView(id, { edge: v });
    return work.setView(id, { crop: { edge: v } });
  }

  /** How wide an outline is, mm of the part: one figure, or width and height. */
  function setSize(text: string) {
    const [a, b] = text.split(/[x×;/]/).map((t) => Number(t.replace(',', '.').replace(/[^0-9.]/g, '')) / 2);
    if (!(a > 0) || !outline) return;
    const half = [a, b > 0 ? b : outline.form === 'round' ? a : outline.half![1]];
    const changed = { outline: { half } };
    return work.setView(id, view?.kind === 'detail' ? changed : { crop: changed });
  }

  const setBreak = (changes: { [name: string]: unknown }) =>
    work.setView(id, { breaks: (view?.breaks ?? []).map((b) => ({ ...b, ...changes })) });

  /** The place where a corner is tied, moved by what is typed (mm of the part, level and upright). */
  function setOffset(text: string) {
    if (!section) return;
    const [a, b] = text.split(/[;/]/).map((t) => Number(t.replace(',', '.')));
    if (!Number.isFinite(a)) return;
    const upright = section.line.courses[0] === 'upright';
    const corners = section.line.corners.map((c, k) =>
      k === tiedAt ? { ...c, off: [b === undefined ? (upright ? a : 0) : a, b ?? (upright ? 0 : a)] } : c,
    );
    return work.setView(id, { line: { corners } });
  }
  /** How deep a local cut goes. */
  function setDepth(k: number, text: string) {
    const depth = Number(text.replace(',', '.').replace(/[^0-9.-]/g, ''));
    if (text !== 'box' && !Number.isFinite(depth)) return;
    const change = text === 'box' ? { tie: { ref: '', at: 'box' }, depth: 0 } : { tie: null, depth };
    return work.setView(id, {
      local_cuts: (view?.local_cuts ?? []).map((c, i) => (i === k ? { ...c, ...change } : c)),
    });
  }
  let tiedAt = $derived(section?.line.corners.findIndex((c) => c.tie) ?? -1);
  let offset = $derived.by(() => {
    const off = section?.line.corners[tiedAt]?.off ?? [0, 0];
    return section?.line.courses[0] === 'upright' ? off[0] : off[1];
  });

  /** All bodies, or one alone, or one more or fewer. */
  function setBodies(v: string) {
    if (v === 'all') return work.setView(id, { bodies: null });
    const all = shown?.bodies ?? [];
    const now = bodies ?? all;
    const next = now.includes(v) && bodies ? now.filter((b) => b !== v) : bodies ? [...now, v] : [v];
    return work.setView(id, { bodies: next.length && next.length < all.length ? next : null });
  }
</script>

{#snippet cutting()}
  {#if cutBodies.length > 1}
    <Choice
      value={view?.whole?.length
        ? `${view.whole.length === 1 ? view.whole[0] : `${view.whole.length} bodies`} whole`
        : 'all bodies cut'}
      label="Bodies that stay whole"
      options={cutBodies.map((b): [string, string] => [
        b,
        view?.whole?.includes(b) ? `✓ ${b} stays whole` : `${b} stays whole`,
      ])}
      onset={setWhole}
      after=","
    />
  {/if}
  {#each shown?.hatches ?? [] as h (h.body)}
    hatch{#if (shown?.hatches.length ?? 0) > 1}&ensp;of {h.body}{/if}
    <Choice
      value={h.off ? 'none' : `${h.angle}°, ${h.spacing} mm, ${h.pattern}`}
      label={`Hatch of ${h.body}: an angle, a spacing in mm, or a pattern`}
      typed
      options={[
        ['auto', 'as it comes'],
        ['general', 'general'],
        ['material', 'by its material'],
        ['steel', 'steel'],
        ['light', 'light metals'],
        ['copper', 'copper and its alloys'],
        ['plastic', 'plastics'],
        ['off', 'none'],
      ]}
      onset={(v) => setHatch(h.body, v)}
    />
    <Choice
      value={view?.hatches?.some((x) => x.body === h.body) ? 'in this view alone' : 'in all views'}
      label={`Where ${h.body} is hatched so`}
      options={[
        ['all', 'in all views'],
        ['here', 'in this view alone'],
      ]}
      onset={(v) => hatchHere(h.body, v === 'here')}
      after=","
    />
  {/each}
{/snippet}

{#snippet scaleAndHidden()}
  scale
  <Choice
    value={shown?.scale_text ?? ''}
    label="Scale of this view"
    typed
    options={[['', view?.parent ? 'as its parent' : 'as the sheet'], ...plain(SCALES)]}
    onset={(v) =>
      v === '' ? work.setView(id, { scale: null }) : scaled(v, (s) => work.setView(id, { scale: s }))}
    after=","
  /> hidden lines
  <Choice
    value={view?.hidden_lines ? 'shown' : 'left out'}
    label="Hidden lines"
    options={plain(['shown', 'left out'] as const)}
    onset={(v) => work.setView(id, { hidden_lines: v === 'shown' })}
    after=","
  />
{/snippet}

{#snippet lettered()}
  letter
  <Choice
    value={view?.letter || 'none'}
    label="Letter"
    typed
    options={[['none', 'none']]}
    onset={(v: string) => work.setView(id, { letter: v === 'none' ? '' : v.toUpperCase() })}
    after=","
  />
{/snippet}

{#snippet aligned(words: string)}
  <Choice
    value={view?.tied ? words : 'untied'}
    label="Alignment"
    options={[
      ['tied', words],
      ['untied', 'untied'],
    ]}
    onset={(v) => work.setView(id, { tied: v === 'tied' })}
    after=","
  />
{/snippet}

{#snippet axes()}
  {#if view?.kind === 'pictorial'}
    axes
    <Choice
      value={axesWords}
      label="Axes: how much the width and the depth lean, degrees"
      typed
      options={[
        ['30, 30', 'isometric'],
        [DIMETRIC.join(', '), 'dimetric, 1 : 1 : ½'],
      ]}
      onset={setAxes}
    />
    <Choice
      value={view.full ? 'in full length' : 'in true projection'}
      label="Lengths along the axes"
      options={[
        ['true', 'in true projection'],
        ['full', 'in full length'],
      ]}
      onset={(v) => work.setView(id, { full: v === 'full' })}
    />
  {/if}
  {#if shown?.axes.length}
    <span class="dim"
      >({shown.axes
        .map((a) => `${a.name} at ${Math.round(a.angle * 10) / 10}° × ${Math.round(a.share * 1000) / 1000}`)
        .join(', ')}),</span
    >
  {/if}
{/snippet}

<!-- what is kept of a view, taken out of it, and how it is turned -->
{#snippet pieces()}
  {#if outline}
    {view?.kind === 'detail' ? 'within' : 'cropped to'} an outline
    {#if outline.half && !outline.points?.length}
      <Choice
        value={outline.form === 'round' && outline.half?.[0] === outline.half?.[1]
          ? `Ø${size(outline.half![0])}`
          : `${size(outline.half![0])} × ${size(outline.half![1])}`}
        label="Size of the outline, mm of the part"
        typed
        onset={setSize}
      />
    {/if}
    {#if shown?.outline?.about}about the {shown.outline.about}{/if}
    {#if shown?.outline?.loose}<em>(lost its feature; drag its middle onto another)</em>{/if}
    <Choice
      value={EDGES.find(([k]) => k === edge)?.[1] ?? ''}
      label="Edge"
      options={EDGES}
      onset={setEdge}
      after=","
    />
  {:else if view?.crop}
    {view.crop.halves?.every((h) => h) ? 'a quarter' : 'one half'} of it,
  {/if}
  {#if view?.breaks?.length}
    {view.breaks.length === 1 ? 'a stretch' : `${view.breaks.length} stretches`} taken out with a gap of
    <Choice
      value={`${view.breaks[0].gap} mm`}
      label="Gap on the sheet, mm"
      typed
      onset={(v: string) => {
        const gap = Number(v.replace(',', '.').replace(/[^0-9.]/g, ''));
        if (gap > 0) void setBreak({ gap });
      }}
    />, ends
    <Choice
      value={BREAKS.find(([k]) => k === (view?.breaks?.[0].form ?? 'auto'))?.[1] ?? ''}
      label="Ends of the stretch"
      options={BREAKS}
      onset={(v) => setBreak({ form: v })}
      after=","
    />
  {/if}
  turned
  <Choice
    value={view?.turn ? `by ${view.turn}°` : 'not at all'}
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
      if (Number.isFinite(turn)) void work.setView(id, turn ? { turn, tied: false } : { turn });
    }}
    after=","
  />
{/snippet}

{#if view?.kind === 'detail' && shown}
  <span>
    <b>{shown.name}</b> of {work.ink?.views.find((v) => v.id === view?.parent)?.words.toLowerCase() ?? ''},
    {@render scaleAndHidden()}
    {@render lettered()}
    {@render pieces()}
    <Choice
      value={view.border ? 'with a border' : 'no border'}
      label="Border around it"
      options={[
        ['yes', 'with a border'],
        ['no', 'no border'],
      ]}
      onset={(v) => work.setView(id, { border: v === 'yes' })}
      after=","
    />
    <Choice
      value={view.leader ? 'a line to its ring' : 'no line to its ring'}
      label="Line to its ring"
      options={[
        ['yes', 'a line to its ring'],
        ['no', 'no line to its ring'],
      ]}
      onset={(v) => work.setView(id, { leader: v === 'yes' })}
      after="."
    />
  </span>
{:else if section && shown}
  <span>
    <b>{shown.name}</b>,
    {shown.section?.words ?? 'cut'}{#if tiedAt >= 0},
      <Choice
        value={offset ? `${offset} mm off it` : 'right on it'}
        label="Off the feature, mm"
        typed
        options={[['0', 'right on it']]}
        onset={setOffset}
        after=","
      />{:else},{/if}
    {#if shown.section?.loose}<em>(lost a feature; drag the corner onto another)</em>{/if}
    looking
    <Choice
      value={section.side === 1 ? 'left of the line' : 'right of the line'}
      label="Direction of looking"
      options={[
        ['1', 'left of the line'],
        ['-1', 'right of the line'],
      ]}
      onset={(v) => work.setView(id, { side: Number(v) })}
      after=","
    />
    {@render lettered()}
    {#if !section.within}
      showing
      <Choice
        value={section.bare ? FORMS[1] : FORMS[0]}
        label="What is shown"
        options={[
          ['all', FORMS[0]],
          ['bare', FORMS[1]],
        ]}
        onset={(v) => work.setView(id, { bare: v === 'bare' })}
        after=","
      />
    {/if}
    <Choice
      value={section.depth ? `${section.depth} mm deep` : 'all its depth'}
      label="Depth behind the cut, mm"
      typed
      options={[['all', 'all its depth']]}
      onset={(v: string) =>
        work.setView(id, { depth: v === 'all' ? null : Number(v.replace(/[^0-9.]/g, '')) || null })}
      after=","
    />
    marked
    <Choice
      value={MARKS.find(([k]) => k === (section.marked ?? 'auto'))?.[1] ?? ''}
      label="How the place of the cut is marked"
      options={MARKS}
      onset={(v) => work.setView(id, { marked: v })}
      after=","
    />
    {@render cutting()}
    {@render scaleAndHidden()}
    {@render pieces()}
    {@render aligned('in line with its view')}
    {#if shown.section?.fault}<em>{shown.section.fault}.</em>{/if}
    {#if shown.meshed}<em>{meshWords(shown.meshed)}.</em>{/if}
  </span>
{:else if view && shown}
  <span>
    {shown.words} of <b>{shown.part_name}</b>,
    {#if view.kind === 'principal'}
      <Choice
        value={`from ${shown.facing}`}
        label="Seen from; what is projected from it goes along"
        options={[
          ...FACES.map((f): [string, string] => [f, faceWords(f)]),
          ...work.directions.map((d): [string, string] => [d.name, d.name]),
        ]}
        onset={face}
        after=","
      />
    {:else}from {shown.facing},{/if}
    {#if shown.bodies.length > 1}
      <Choice
        value={!bodies
          ? 'all bodies'
          : bodies.length === 1
            ? `${bodies[0]} alone`
            : `${bodies.length} bodies`}
        label="Bodies that are shown"
        options={[
          ['all', 'all bodies'],
          ...shown.bodies.map((b): [string, string] => [
            b,
            bodies ? `${bodies.includes(b) ? '✓ ' : ''}${b}` : `${b} alone`,
          ]),
        ]}
        onset={setBodies}
        after=","
      />
    {/if}
    {#if shown.bodies.length > 1}
      <Choice
        value={view.adjacent?.length
          ? `${view.adjacent.length === 1 ? view.adjacent[0] : `${view.adjacent.length} bodies`} as adjacent`
          : 'none as adjacent'}
        label="Adjacent parts: only to tell what the others stand beside"
        options={shown.bodies.map((b): [string, string] => [
          b,
          `${view?.adjacent?.includes(b) ? '✓ ' : ''}${b} as adjacent`,
        ])}
        onset={setAdjacent}
        after=","
      />
    {/if}
    {@render axes()}
    {@render scaleAndHidden()}
    {#if view.left_out?.length}
      <Choice
        value={view.left_out.length === 1 ? 'one line left out' : `${view.left_out.length} lines left out`}
        label="Lines left out; point at one to bring it back alone"
        options={[
          ['last', 'bring the last one back'],
          ['all', 'bring all back'],
        ]}
        onset={(v) => work.setView(id, { left_out: v === 'all' ? [] : (view?.left_out ?? []).slice(0, -1) })}
        after=","
      />
    {/if}
    tones
    <Choice
      value={view.shaded ? 'shaded' : 'none'}
      label="Tones"
      options={plain(['shaded', 'none'])}
      onset={(v) => work.setView(id, { shaded: v === 'shaded' })}
      after=","
    /> tangent edges
    <Choice
      value={view.tangent_edges ?? 'thin'}
      label="Tangent edges"
      options={plain(['shown', 'thin', 'off'])}
      onset={(v) => work.setView(id, { tangent_edges: v })}
      after=","
    />
    {#if view.parent}{@render aligned('tied to its parent')}{/if}
    {#if view.kind === 'auxiliary' || view.letter}{@render lettered()}{/if}
    {@render pieces()}
    {#if view.local_cuts?.length}
      <Choice
        value={view.local_cuts.length === 1
          ? 'cut open locally'
          : `cut open in ${view.local_cuts.length} places`}
        label="Local cuts"
        options={[
          ...view.local_cuts.map((c, k): [string, string] => [c.id, `close up place ${k + 1}`]),
          ...(view.local_cuts.length > 1 ? [['all', 'close up all'] as [string, string]] : []),
        ]}
        onset={(v) =>
          work.setView(id, {
            local_cuts: v === 'all' ? [] : (view?.local_cuts ?? []).filter((c) => c.id !== v),
          })}
        after=","
      />
    {/if}
    {#each view.local_cuts ?? [] as c, k (c.id)}
      <Choice
        value={c.tie
          ? c.tie.at === 'box'
            ? 'to the middle of the part'
            : 'to a feature'
          : `to ${c.depth} mm`}
        label="Depth of the local cut: mm toward the viewer from the middle of the part"
        typed
        options={[['box', 'to the middle of the part']]}
        onset={(v: string) => setDepth(k, v)}
        after=","
      />
    {/each}
    {#if shown.hatches.length}{@render cutting()}{/if}
    caption
    <Choice
      value={view.caption || 'none'}
      label="Caption"
      typed
      options={[['none', 'none']]}
      onset={(v) => work.setView(id, { caption: v === 'none' ? '' : v })}
      after="."
    />
    {#if shown.meshed}<em>{meshWords(shown.meshed)}.</em>{/if}
  </span>
{/if}

<style>
  b {
    font-weight: 500;
  }
  .dim {
    color: var(--ink2);
  }
</style>
