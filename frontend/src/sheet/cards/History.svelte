<script lang="ts">
  import { api, type Step } from '../../api/client';
  import { notices } from '../../lib/notices.svelte';
  import { interaction } from '../interaction.svelte';
  import { work } from '../work.svelte';

  /** The steps of the drawing, the last done marked, in pages; going back to any of them, or forward again. */
  let steps = $state.raw<Step[]>([]);
  let at = $derived(steps.filter((s) => s.done).at(-1)?.position ?? 0);
  let first = $derived(steps[0]?.position ?? 0);

  let asked = 0;
  let kept = Infinity;

  $effect(() => {
    const state = work.state;
    if (state) void load(state.id);
  });

  /** The newest page, and those before it down to the present step, and as far as was looked back. */
  async function load(id: number) {
    const mine = ++asked;
    try {
      let found = await api.history(id);
      while (found.length && found[0].position > 0 && (!found[0].done || found[0].position > kept))
        found = [...(await api.history(id, found[0].position)), ...found];
      if (mine !== asked) return;
      steps = found;
      if (!going) heading = null;
    } catch (error) {
      notices.refuse(error);
    }
  }

  async function earlier() {
    if (!work.state) return;
    try {
      steps = [...(await api.history(work.state.id, first)), ...steps];
      kept = steps[0]?.position ?? 0;
    } catch (error) {
      notices.refuse(error);
    }
  }

  /** Where the hand has gone already, and how many such ways are not at their end: the list tells of that a little later. */
  let heading: number | null = null;
  let going = 0;
  async function go(position: number) {
    interaction.stop();
    const by = position - (heading ?? at);
    heading = position;
    going++;
    await work.travel(by);
    going--;
    // also where it was refused
    if (!going && work.state) void load(work.state.id);
  }
</script>

<ol>
  {#each [...steps].reverse() as s (s.position)}
    <li>
      <button
        class:later={!s.done}
        aria-current={s.position === at ? 'step' : undefined}
        onclick={() => go(s.position)}>{s.label}</button
      >
    </li>
  {/each}
  {#if first > 0}<li><button onclick={earlier}>Earlier steps…</button></li>{/if}
</ol>

<style>
  ol {
    max-height: 420px;
    overflow: auto;
  }
  li button {
    width: 100%;
    text-align: left;
    padding: 3px 8px 4px;
    border-radius: 3px;
  }
  li button:hover {
    background: color-mix(in srgb, var(--verd) 15%, transparent);
  }
  .later {
    color: var(--ink2);
    font-style: italic;
  }
  [aria-current] {
    box-shadow: inset 3px 0 var(--madder);
    font-weight: 500;
  }
</style>
