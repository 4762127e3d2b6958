<script lang="ts">
  import type { HatchChoice, View, ViewJson } from '../../api/client';
  import Choice from './Choice.svelte';
  import { work } from '../work.svelte';

  /** What of a view that is cut stays whole, and how the rest is hatched. */
  let { view, shown }: { view: View; shown: ViewJson } = $props();
  const PATTERNS = ['general', 'material', 'steel', 'light', 'copper', 'plastic'] as const;
  let cutBodies = $derived(shown.bodies);
  /** Of several bodies the one whose hatch is told. */
  let told = $state('');
  let hatches = $derived(shown.hatches ?? []);
  let hatch = $derived(hatches.find((h) => h.body === told) ?? hatches[0]);

  /** A body stays whole, or is cut after all. */
  function setWhole(body: string) {
    const now = view.whole ?? [];
    return work.setView(view.id, {
      whole: now.includes(body) ? now.filter((b) => b !== body) : [...now, body],
    });
  }

  /** Hatch of a body, in this view or in the whole drawing: a pattern, an angle, a spacing, or none. */
  function setHatch(body: string, text: string) {
    const own = view.hatches?.find((h) => h.body === body);
    const old = own ?? work.state?.document.hatches?.find((h) => h.body === body) ?? { body };
    const figure = Number(text.replace(/[^0-9.,-]/g, '').replace(',', '.'));
    let next: HatchChoice = { ...old, body, off: false };
    if (text === 'off') next = { ...next, off: true };
    else if (PATTERNS.some((p) => p === text)) next = { ...next, pattern: text as HatchChoice['pattern'] };
    else if (text === 'auto') next = { body };
    else if (/mm/.test(text) && figure > 0) next = { ...next, spacing: figure };
    else if (/[\d]/.test(text) && Number.isFinite(figure)) next = { ...next, angle: figure };
    else return;
    if (own) return work.setView(view.id, { hatches: [...otherHatches(body), next] });
    return work.operation({ op: 'set_hatch', hatch: next });
  }
  const otherHatches = (body: string) => (view.hatches ?? []).filter((h) => h.body !== body);

  /** The hatch of a body is that of the whole drawing, or this view's own. */
  function hatchHere(body: string, here: boolean) {
    const now = shown.hatches.find((h) => h.body === body);
    const pattern = now?.pattern as HatchChoice['pattern'];
    const own = now && { body, angle: now.angle, spacing: now.spacing, pattern, off: now.off };
    return work.setView(view.id, { hatches: [...otherHatches(body), ...(here && own ? [own] : [])] });
  }
</script>

{#if cutBodies.length > 1}
  <Choice
    value={view.whole?.length
      ? `${view.whole.length === 1 ? view.whole[0] : `${view.whole.length} bodies`} whole`
      : 'all bodies cut'}
    label="Bodies that stay whole"
    options={cutBodies.map((b): [string, string] => [
      b,
      view.whole?.includes(b) ? `✓ ${b} stays whole` : `${b} stays whole`,
    ])}
    onset={setWhole}
    after=","
  />
{/if}
{#if hatch}
  {@const h = hatch}
  hatch
  {#if hatches.length > 1}of
    <Choice
      value={h.body}
      label="The body whose hatch is told"
      options={hatches.map((one): [string, string] => [
        one.body,
        `${one.body}: ${one.off ? 'none' : `${one.angle}°, ${one.spacing} mm`}`,
      ])}
      onset={(v) => {
        told = v;
      }}
    />
  {/if}
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
    value={view.hatches?.some((x) => x.body === h.body) ? 'in this view alone' : 'in all views'}
    label={`Where ${h.body} is hatched so`}
    options={[
      ['all', 'in all views'],
      ['here', 'in this view alone'],
    ]}
    onset={(v) => hatchHere(h.body, v === 'here')}
    after=","
  />
{/if}
