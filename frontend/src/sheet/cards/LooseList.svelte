<script lang="ts">
  import { api } from '../../api/client';
  import { capital } from '../../lib/format';
  import { interaction } from '../interaction.svelte';
  import { seating, type Loose } from '../making/seat';
  import { selected } from '../selection.svelte';
  import { work } from '../work.svelte';

  /** What is loose since the part changed, each with the places where it may hang: shown at a look, taken by a click. */
  let { found = $bindable([]) }: { found?: Loose[] } = $props();
  type Seat = Loose['seats'][number];
  $effect(() => {
    const id = work.id;
    // asked only where something has lost what it hung on
    if (!work.state?.document.sheets.some((s) => s.annotations?.some((a) => a.was))) {
      found = [];
      return;
    }
    let live = true;
    api.loose(id).then(
      (now) => live && (found = now),
      () => live && (found = []),
    );
    return () => (live = false);
  });

  const act = (loose: Loose, seat: Seat, alike: boolean) => ({
    act: 'seat_anew' as const,
    id: loose.id,
    refs: seat.refs,
    alike,
  });
  let alike = $state(true);
  let looked = '';
  async function look(loose: Loose, seat: Seat) {
    if (loose.sheet !== work.sheetId) return;
    const own = (looked = JSON.stringify([loose.id, seat.refs]));
    try {
      const shown = await api.preview(work.id, act(loose, seat, false));
      if (looked === own) interaction.preview = shown.elements;
    } catch {
      /* taking it says why not */
    }
  }
  function away() {
    looked = '';
    interaction.preview = [];
  }
  async function take(loose: Loose, seat: Seat) {
    away();
    await work.act(act(loose, seat, alike));
  }
  async function show(loose: Loose) {
    if (loose.sheet !== work.sheetId) await work.openSheet(loose.sheet);
    selected.elements(loose.id);
  }
</script>

{#if found.length > 1}
  <button class="seat" aria-pressed={alike} onclick={() => (alike = !alike)}
    >{alike ? 'All that went the same way are seated at once' : 'Each is seated by itself'}</button
  >
{/if}
{#each found as loose (loose.id)}
  <button class="item flag" onclick={() => show(loose)}>{capital(loose.words)} is loose</button>
  {#each loose.seats as seat, i (i)}
    <button
      class="seat"
      title={alike ? 'Hang it there, and all that went the same way' : 'Hang it there'}
      onmouseenter={() => look(loose, seat)}
      onfocus={() => look(loose, seat)}
      onmouseleave={away}
      onblur={away}
      onclick={() => take(loose, seat)}>{seat.words}</button
    >
  {/each}
  <button class="seat" onclick={() => (show(loose), interaction.make(seating(loose)))}
    >Point at another place</button
  >
{/each}

<style>
  button {
    display: block;
    width: 100%;
    text-align: left;
    padding: 3.5px 0;
    border-bottom: 1px dotted var(--rule);
  }
  .flag {
    color: var(--ochre);
  }
  .seat {
    padding-left: 10px;
    color: var(--ink2);
    font-size: 13.5px;
    line-height: 1.25;
  }
  button:hover,
  button:focus-visible {
    color: var(--verd);
  }
</style>
