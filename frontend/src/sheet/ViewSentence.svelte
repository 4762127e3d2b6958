<script lang="ts">
  import { meshWords, SCALES, scaled } from '../lib/format';
  import Choice from './Choice.svelte';
  import { work } from './work.svelte';

  /** A view in one sentence, with its changeable parts. */
  let { id }: { id: string } = $props();
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

  /** All bodies, or one alone, or one more or fewer. */
  function setBodies(v: string) {
    if (v === 'all') return work.setView(id, { bodies: null });
    const all = shown?.bodies ?? [];
    const now = bodies ?? all;
    const next = now.includes(v) && bodies ? now.filter((b) => b !== v) : bodies ? [...now, v] : [v];
    return work.setView(id, { bodies: next.length && next.length < all.length ? next : null });
  }
</script>

{#if view && shown}
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
    scale
    <Choice
      value={shown.scale_text}
      label="Scale of this view"
      typed
      options={[['', view.parent ? 'as its parent' : 'as the sheet'], ...plain(SCALES)]}
      onset={(v) =>
        v === '' ? work.setView(id, { scale: null }) : scaled(v, (s) => work.setView(id, { scale: s }))}
      after=","
    /> hidden lines
    <Choice
      value={view.hidden_lines ? 'shown' : 'left out'}
      label="Hidden lines"
      options={plain(['shown', 'left out'] as const)}
      onset={(v) => work.setView(id, { hidden_lines: v === 'shown' })}
      after=","
    /> tones
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
