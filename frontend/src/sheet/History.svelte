<script lang="ts">
  import { api, type Step } from '../api/client';
  import { notices } from '../lib/notices.svelte';
  import { asking } from './asking.svelte';
  import { work } from './work.svelte';

  /** The steps of the drawing, the last done marked, in pages; going back to any of them, or forward again. */
  let steps = $state.raw<Step[]>([]);
  let at = $derived(steps.filter((s) => s.done).at(-1)?.position ?? 0);
  let first = $derived(steps[0]?.position ?? 0);

  $effect(() => {
    const state = work.state;
    if (!state) return;
    api
      .history(state.id)
      .then((found) => (steps = found))
      .catch((error: unknown) => notices.refuse(error));
  });

  async function earlier() {
    if (!work.state) return;
    try {
      steps = [...(await api.history(work.state.id, first)), ...steps];
    } catch (error) {
      notices.refuse(error);
    }
  }

  function go(position: number) {
    asking.stop();
    void work.travel(position - at);
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
