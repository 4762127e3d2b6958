<script lang="ts">
  import type { Snippet } from 'svelte';
  import type { SectionView, ViewJson, Point } from '../../api/client';
  import Choice from './Choice.svelte';
  import { work } from '../work.svelte';

  /** Where a section is cut, and what it shows of what lies behind. */
  let { section, shown, letter }: { section: SectionView; shown: ViewJson; letter: Snippet } = $props();
  const FORMS = ['the whole part behind it', 'the cut face alone'] as const;
  const MARKS = [
    ['auto', 'as its place needs it'],
    ['full', 'with arrows and letters'],
    ['line', 'by a line alone'],
    ['off', 'not at all'],
  ] as const;
  const upright = $derived(section.line.courses[0] === 'upright');
  /** The place where a corner is tied, moved by what is typed: mm of the part to the right or up, or as is said in words. */
  function setOffset(text: string) {
    const figure = Number(/-?\d+([.,]\d+)?/.exec(text)?.[0].replace(',', '.'));
    if (!Number.isFinite(figure)) return;
    const off: Point = [0, 0];
    off[upright ? 0 : 1] = /left|below|under/.test(text) ? -figure : figure;
    const corners = section.line.corners.map((c, k) => (k === tiedAt ? { ...c, off } : c));
    return work.setView(section.id, { line: { corners } });
  }
  let tiedAt = $derived(section.line.corners.findIndex((c) => c.tie));
  let offset = $derived((section.line.corners[tiedAt]?.off ?? [0, 0])[upright ? 0 : 1]);
  let aside = $derived(
    upright ? (offset > 0 ? 'right' : 'left') + ' of it' : offset > 0 ? 'above it' : 'below it',
  );
</script>

{shown.section?.words ?? 'cut'}{#if tiedAt >= 0},
  <Choice
    value={offset ? `${Math.abs(offset)} mm ${aside}` : 'right on it'}
    label={upright
      ? 'Off the feature, mm: left of it with a minus'
      : 'Off the feature, mm: below it with a minus'}
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
  onset={(v) => work.setView(section.id, { side: v === '1' ? 1 : -1 })}
  after=","
/>
{@render letter()}
{#if !section.within}
  showing
  <Choice
    value={section.bare ? FORMS[1] : FORMS[0]}
    label="What is shown"
    options={[
      ['all', FORMS[0]],
      ['bare', FORMS[1]],
    ]}
    onset={(v) => work.setView(section.id, { bare: v === 'bare' })}
    after=","
  />
{/if}
<Choice
  value={section.depth ? `${section.depth} mm deep` : 'all its depth'}
  label="Depth behind the cut, mm"
  typed
  options={[['all', 'all its depth']]}
  onset={(v: string) =>
    work.setView(section.id, { depth: v === 'all' ? null : Number(v.replace(/[^0-9.]/g, '')) || null })}
  after=","
/>
marked
<Choice
  value={MARKS.find(([k]) => k === (section.marked ?? 'auto'))?.[1] ?? ''}
  label="How the place of the cut is marked"
  options={MARKS}
  onset={(v) => work.setView(section.id, { marked: v })}
  after=","
/>
