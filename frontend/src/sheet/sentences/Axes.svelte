<script lang="ts">
  import type { View, ViewJson } from '../../api/client';
  import { notices } from '../../lib/notices.svelte';
  import Choice from './Choice.svelte';
  import Either from './Either.svelte';
  import { work } from '../work.svelte';

  /** How the axes of a pictorial view lie. */
  let { view, shown }: { view: View; shown: ViewJson } = $props();
  const FORMS = {
    axonometric: 'isometric',
    cavalier: 'cavalier: front true, depth at 45° in full',
    cabinet: 'cabinet: front true, depth at 45° in half',
    military: 'military: plan true at 45°, heights in full',
  };
  const DIMETRIC = [7.181, 41.41];
  let axesWords = $derived.by(() => {
    const [a, b] = view.kind === 'pictorial' ? (view.angles ?? [30, 30]) : [30, 30];
    if (view.kind === 'pictorial' && view.form && view.form !== 'axonometric') return FORMS[view.form];
    if (a === 30 && b === 30) return 'isometric';
    if (Math.abs(a - DIMETRIC[0]) < 0.01 && Math.abs(b - DIMETRIC[1]) < 0.01) return 'dimetric, 1 : 1 : ½';
    return `leaning ${Math.round(a * 100) / 100}° and ${Math.round(b * 100) / 100}°`;
  });

  /** How far bodies are pulled apart. */
  function apart(text: string) {
    const share = Number(text.replace(/[^0-9.,]/g, '').replace(',', '.')) / 100;
    if (text.trim() && share >= 0 && share <= 10) void work.setView(view.id, { apart_by: share });
    else notices.say('How far?', 'Give a share of what keeps them clear, such as 120 %.', true);
  }

  /** The axes of a pictorial view by how much two of them lean. */
  function setAxes(text: string) {
    if (text === 'cavalier' || text === 'cabinet' || text === 'military')
      return void work.setView(view.id, { form: text });
    const [a, b, more] = text.split(/[,;\s]+/).map((t) => Number(t.replace('°', '')));
    const leans = (x: number) => x >= 1 && x < 89;
    if (more === undefined && leans(a) && leans(b))
      void work.setView(view.id, { angles: [a, b], form: 'axonometric' });
  }
</script>

{#if view.kind === 'pictorial'}
  axes
  <Choice
    value={axesWords}
    label="Axes: how much the width and the depth lean, degrees"
    typed
    options={[
      ['30, 30', 'isometric'],
      [DIMETRIC.join(', '), 'dimetric, 1 : 1 : ½'],
      ['cabinet', FORMS.cabinet],
      ['cavalier', FORMS.cavalier],
      ['military', FORMS.military],
    ]}
    onset={setAxes}
  />
  {#if (view.form ?? 'axonometric') === 'axonometric'}<Either
      on={!!view.full}
      words={['in true projection', 'in full length']}
      label="Lengths along the axes"
      onset={(full) => work.setView(view.id, { full })}
    />{/if}
{/if}
{#if view.kind === 'pictorial' && view.apart?.length}
  pulled apart
  <Choice
    value={`by ${Math.round((view.apart_by ?? 1) * 100)} %`}
    label="How far its bodies are pulled apart, of what keeps them clear"
    typed
    options={[
      ['50', 'by 50 %'],
      ['100', 'by 100 %'],
      ['150', 'by 150 %'],
      ['0', 'not at all'],
    ]}
    onset={apart}
    after=","
  />
{/if}
{#if shown.axes.length}
  <span class="dim"
    >({shown.axes
      .map((a) => `${a.name} at ${Math.round(a.angle * 10) / 10}° × ${Math.round(a.share * 1000) / 1000}`)
      .join(', ')}),</span
  >
{/if}

<style>
  .dim {
    color: var(--ink2);
  }
</style>
