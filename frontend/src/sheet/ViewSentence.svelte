<script lang="ts">
  import type { HatchChoice } from '../api/client';
  import { meshWords, SCALES, scaled } from '../lib/format';
  import Choice from './Choice.svelte';
  import { work } from './work.svelte';

  /** A view in one sentence, with its changeable parts. */
  let { id: shownId }: { id: string } = $props();
  let id = $derived(shownId.replace(/-line$/, ''));
  let view = $derived(work.view(id));
  let shown = $derived(work.ink?.views.find((v) => v.id === id));
  const plain = <N extends string>(names: readonly N[]) => names.map((n) => [n, n] as const);
  const FACES = ['-Y', '+Y', '+Z', '-Z', '-X', '+X'] as const;
  const faceWords = (face: string) => `from ${face.replace('-', '−')}`;
  let bodies = $derived(view?.bodies ?? null);

  function face(v: string) {
    const chosen = FACES.find((f) => f === v);
    if (chosen) void work.act({ act: 'turn_front', view: id, face: chosen });
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
    const old = work.state?.document.hatches?.find((h) => h.body === body) ?? { body };
    const figure = Number(text.replace(/[^0-9.,-]/g, '').replace(',', '.'));
    let next: HatchChoice = { ...old, body, off: false };
    if (text === 'off') next = { ...next, off: true };
    else if (PATTERNS.some((p) => p === text)) next = { ...next, pattern: text as HatchChoice['pattern'] };
    else if (text === 'auto') next = { body };
    else if (/mm/.test(text) && figure > 0) next = { ...next, spacing: figure };
    else if (/[\d]/.test(text) && Number.isFinite(figure)) next = { ...next, angle: figure };
    else return;
    return work.operation({ op: 'set_hatch', hatch: next });
  }

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

{#if section && shown}
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
    letter
    <Choice
      value={section.letter || 'none'}
      label="Letter"
      typed
      options={[['none', 'none']]}
      onset={(v: string) => work.setView(id, { letter: v === 'none' ? '' : v.toUpperCase() })}
      after=","
    />
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
    <Choice
      value={section.tied ? 'in line with its view' : 'untied'}
      label="Alignment"
      options={[
        ['tied', 'in line with its view'],
        ['untied', 'untied'],
      ]}
      onset={(v) => work.setView(id, { tied: v === 'tied' })}
      after="."
    />
    {#if shown.section?.fault}<em>{shown.section.fault}.</em>{/if}
    {#if shown.meshed}<em>{meshWords(shown.meshed)}.</em>{/if}
  </span>
{:else if view && shown}
  <span>
    {shown.name} view of <b>{shown.part_name}</b>,
    {#if view.kind === 'principal'}
      <Choice
        value={`from ${shown.facing}`}
        label="Seen from; what is projected from it goes along"
        options={FACES.map((f): [string, string] => [f, faceWords(f)])}
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
    {@render scaleAndHidden()} tones
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
    {#if view.parent}
      <Choice
        value={view.tied ? 'tied to its parent' : 'untied'}
        label="Alignment"
        options={[
          ['tied', 'tied to its parent'],
          ['untied', 'untied'],
        ]}
        onset={(v) => work.setView(id, { tied: v === 'tied' })}
        after=","
      />
    {/if}
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
</style>
