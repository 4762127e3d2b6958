<script lang="ts">
  import { notices } from '../../lib/notices.svelte';
  import { meshWords, SCALES, scaled } from '../../lib/format';
  import Choice from './Choice.svelte';
  import Either from './Either.svelte';
  import { viewOf } from '../parts_of_views';
  import Axes from './Axes.svelte';
  import Bodies from './Bodies.svelte';
  import Cutting from './Cutting.svelte';
  import LocalCuts from './LocalCuts.svelte';
  import Pieces from './Pieces.svelte';
  import Section from './Section.svelte';
  import Tones from './Tones.svelte';
  import { work } from '../work.svelte';

  /** A view in one sentence, with its changeable parts. */
  let { id: shownId }: { id: string } = $props();
  let id = $derived(viewOf(shownId));
  let view = $derived(work.view(id));
  let shown = $derived(work.ink?.views.find((v) => v.id === id));
  const plain = <N extends string>(names: readonly N[]) => names.map((n) => [n, n] as const);
  const FACES = ['-Y', '+Y', '+Z', '-Z', '-X', '+X'] as const;
  const faceWords = (face: string) => `from ${face.replace('-', '−')}`;

  function face(v: string) {
    const chosen = FACES.find((f) => f === v);
    const own = work.directions.find((d) => d.name === v);
    if (chosen) void work.act({ act: 'turn_front', view: id, face: chosen });
    else if (own) void work.act({ act: 'turn_front', view: id, toward: own.toward, up: own.up });
  }

  /** To what a view is tied, and how it moves for that. */
  let inLine = $derived.by(() => {
    const parent = work.ink?.views.find((v) => v.id === view?.parent)?.words;
    const [dx, dy] = shown?.moves ?? [0, 0];
    const way = !shown?.moves
      ? 'going with it'
      : Math.abs(dx) > 0.999
        ? 'moving level only'
        : Math.abs(dy) > 0.999
          ? 'moving up and down only'
          : 'moving along its line only';
    return parent ? `in line with the ${parent.replace(/^./, (c) => c.toLowerCase())}, ${way}` : 'in line';
  });
  const lineWords = (line: { way: string; other: string }) =>
    `held ${line.way === 'level' ? 'level with' : 'above or below'} the ${work.ink?.views.find((v) => v.id === line.other)?.words.toLowerCase() ?? 'view that is gone'}`;
  let leftOut = $derived((view?.left_out?.length ?? 0) + (view?.hidden_out?.length ?? 0));

  /** Lines that are left out brought back, or seen in grey. */
  function bring(v: string) {
    if (v === 'see') work.ghosts = work.ghosts === id ? '' : id;
    else if (v === 'all') void work.setView(id, { left_out: [], hidden_out: [] });
    else if (view?.hidden_out?.length) void work.setView(id, { hidden_out: view.hidden_out.slice(0, -1) });
    else void work.setView(id, { left_out: (view?.left_out ?? []).slice(0, -1) });
  }

  /** Where a view with a direction of its own is cut, mm from the middle of the part. */
  function cutAt(v: string) {
    const at = Number(
      v
        .replace(',', '.')
        .replace('−', '-')
        .replace(/[^0-9.-]/g, ''),
    );
    if (v === 'whole') void work.setView(id, { cut_at: null });
    else if (Number.isFinite(at)) void work.setView(id, { cut_at: at, hidden_lines: false });
  }
  let ownCut = $derived(view?.kind === 'principal' || view?.kind === 'free' ? view.cut_at : undefined);
  const neutralWords = (k: number | null) =>
    k == null ? 'neutral line by DIN 6935' : `neutral line at ${k} of the thickness`;

  /** Where the neutral line of a bent sheet lies. */
  function neutral(v: string) {
    const k = v.trim() === '' ? null : Number(v.replace(',', '.'));
    if (k !== null && !(k >= 0 && k <= 1))
      return notices.say(
        'Where does it lie?',
        'Give a share of the thickness from within, from 0 to 1.',
        true,
      );
    if (view?.kind === 'principal' && view.flat) void work.setView(id, { flat: { ...view.flat, k } });
  }
  let section = $derived(view?.kind === 'section' ? view : undefined);
</script>

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
  /> on
  <Choice
    value={`sheet ${work.sheetNumber}`}
    label="Sheet"
    options={[
      ...work.sheets.map((s, k): [string, string] => [s.id, `sheet ${k + 1}${s.name ? `, ${s.name}` : ''}`]),
      ['', 'a new sheet'],
    ]}
    onset={(v) => v !== work.sheetId && work.sendTo([id], v)}
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

{#snippet held()}
  {#if work.state?.document.view_styles?.length}
    marked like
    <Choice
      value={view?.style || "the drawing's"}
      label="Look of its marks and caption"
      options={[
        ['', "the drawing's"],
        ...work.state.document.view_styles.map((s): [string, string] => [s.name, s.name]),
      ]}
      onset={(style) => work.setView(id, { style })}
      after=","
    />
  {/if}
  {#each view?.lined ?? [] as line, k (k)}
    <Choice
      value={lineWords(line)}
      label="How it is held in line"
      options={[
        ['held', lineWords(line)],
        ['free', 'free'],
      ]}
      onset={(v) => v === 'free' && work.setView(id, { lined: view?.lined?.filter((_, n) => n !== k) })}
      after=","
    />
  {/each}
{/snippet}

{#snippet aligned(words: string)}
  {#if work.view(view?.parent ?? '')}<Choice
      value={view?.tied ? words : 'untied'}
      label="Alignment"
      options={[
        ['tied', words],
        ['untied', 'untied'],
      ]}
      onset={(v) => work.setView(id, { tied: v === 'tied' })}
      after=","
    />{/if}
{/snippet}

{#if view?.kind === 'detail' && shown}
  <span>
    <b>{shown.name}</b> of the {work.ink?.views.find((v) => v.id === view?.parent)?.words.toLowerCase() ??
      ''},
    {@render scaleAndHidden()}
    {@render lettered()}
    <Pieces {view} {shown} />
    <Either
      on={!!view.border}
      words={['no border', 'with a border']}
      label="Border around it"
      onset={(border) => work.setView(id, { border })}
      after=","
    />
    {@render held()}
    <Either
      on={!!view.leader}
      words={['no line to its ring', 'a line to its ring']}
      label="Line to its ring"
      onset={(leader) => work.setView(id, { leader })}
      after="."
    />
  </span>
{:else if view && section && shown}
  <span>
    <b>{shown.name}</b>,
    <Section {section} {shown} letter={lettered} />
    <Cutting {view} {shown} />
    {@render scaleAndHidden()}
    <Pieces {view} {shown} />
    {@render held()}{@render aligned(inLine)}
    {#if shown.section?.fault}<em>{shown.section.fault}.</em>{/if}
    {#if shown.meshed}<em>{meshWords(shown.meshed)}.</em>{/if}
  </span>
{:else if view && shown}
  <span>
    {shown.words} of <b>{shown.part_name}</b>,
    {#if view.kind === 'principal' && view.flat}
      <Choice
        value={neutralWords(view.flat.k ?? null)}
        label="Its neutral line: by DIN 6935, or at a share of the thickness from within"
        typed
        options={[
          ['', 'neutral line by DIN 6935'],
          ['0.33', 'neutral line at 0.33 of the thickness'],
          ['0.44', 'neutral line at 0.44 of the thickness'],
          ['0.5', 'neutral line in the middle'],
        ]}
        onset={neutral}
        after=","
      />
    {:else if view.kind === 'principal'}
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
    {#if ownCut != null || (view.caption && (view.kind === 'principal' || view.kind === 'free'))}
      <Choice
        value={ownCut == null
          ? 'whole'
          : ownCut === 0
            ? 'cut through the middle'
            : `cut ${Math.abs(ownCut)} mm ${ownCut > 0 ? 'before' : 'behind'} the middle`}
        label="Cut square to the sight, mm before the middle of the part"
        typed
        options={[
          ['whole', 'whole'],
          ['0', 'cut through the middle'],
        ]}
        onset={cutAt}
        after=","
      />
    {/if}
    <Bodies {view} {shown} />
    <Axes {view} {shown} />
    {@render scaleAndHidden()}
    {#if leftOut}
      <Choice
        value={leftOut === 1 ? 'one line left out' : `${leftOut} lines left out`}
        label="Lines left out; point at one to bring it back alone"
        options={[
          ['see', work.ghosts === id ? 'no longer show them in grey' : 'show them in grey'],
          ['last', 'bring the last one back'],
          ['all', 'bring all back'],
        ]}
        onset={bring}
        after=","
      />
    {/if}
    <Tones {view} {shown} /> tangent edges
    <Choice
      value={view.tangent_edges ?? 'thin'}
      label="Tangent edges"
      options={plain(['shown', 'thin', 'off'] as const)}
      onset={(v) => work.setView(id, { tangent_edges: v })}
      after=","
    />
    {@render held()}{#if view.parent}{@render aligned(inLine)}{/if}
    {#if view.kind === 'principal' || view.kind === 'free'}
      <Either
        on={!!view.mirrored}
        words={['as modelled', 'mirrored: the other hand']}
        label="Hand"
        onset={(mirrored) => work.setView(id, { mirrored })}
        after=","
      />
    {/if}
    {#if view.kind === 'auxiliary' || view.letter}{@render lettered()}{/if}
    <Pieces {view} {shown} />
    <LocalCuts {view} />
    {#if shown.hatches.length}<Cutting {view} {shown} />{/if}
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
