<script lang="ts">
  import type { View, ViewJson } from '../../api/client';
  import BodiesSlip from '../cards/BodiesSlip.svelte';
  import Choice from './Choice.svelte';
  import { work } from '../work.svelte';

  /** Which bodies a view shows, and which of them are adjacent parts. */
  let { view, shown }: { view: View; shown: ViewJson } = $props();
  /** More bodies than these are chosen from a list that is searched. */
  const MANY = 12;
  let listing = $state(false);
  /** A body as an adjacent part, or no longer. */
  function setAdjacent(body: string) {
    const now = view.adjacent ?? [];
    return work.setView(view.id, {
      adjacent: now.includes(body) ? now.filter((b) => b !== body) : [...now, body],
    });
  }
  let bodies = $derived(view.bodies ?? null);

  /** All bodies, or one alone, or one more or fewer. */
  function setBodies(v: string) {
    if (v === 'all') return work.setView(view.id, { bodies: null });
    const all = shown.bodies ?? [];
    const now = bodies ?? all;
    const next = now.includes(v) && bodies ? now.filter((b) => b !== v) : bodies ? [...now, v] : [v];
    return work.setView(view.id, { bodies: next.length && next.length < all.length ? next : null });
  }
</script>

{#if shown.bodies.length > MANY}
  <button class="part" onclick={() => (listing = true)}
    >{bodies ? `${bodies.length} of ${shown.bodies.length} bodies` : `all ${shown.bodies.length} bodies`}{view
      .adjacent?.length
      ? `, ${view.adjacent.length} as adjacent`
      : ''},</button
  >
  {#if listing}<BodiesSlip {view} names={shown.bodies} onclose={() => (listing = false)} />{/if}
{:else if shown.bodies.length > 1}
  <Choice
    value={!bodies ? 'all bodies' : bodies.length === 1 ? `${bodies[0]} alone` : `${bodies.length} bodies`}
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
{#if shown.bodies.length > 1 && shown.bodies.length <= MANY}
  <Choice
    value={view.adjacent?.length
      ? `${view.adjacent.length === 1 ? view.adjacent[0] : `${view.adjacent.length} bodies`} as adjacent`
      : 'none as adjacent'}
    label="Adjacent parts: only to tell what the others stand beside"
    options={shown.bodies.map((b): [string, string] => [
      b,
      `${view.adjacent?.includes(b) ? '✓ ' : ''}${b} as adjacent`,
    ])}
    onset={setAdjacent}
    after=","
  />
{/if}

<style>
  .part {
    border-bottom: 1px dotted var(--ink2);
    padding: 0;
  }
</style>
