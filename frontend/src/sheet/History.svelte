<script lang="ts">
  import { api, type Step } from '../api/client';
  import { notices } from '../lib/notices.svelte';
  import { asking } from './asking.svelte';
  import { work } from './work.svelte';

  /** All steps of the drawing, the last done marked; going back to any of them, or forward again. */
  let { onclose }: { onclose: () => void } = $props();
  let steps = $state.raw<Step[]>([]);
  let at = $derived(steps.filter((s) => s.done).at(-1)?.position ?? 0);

  $effect(() => {
    void work.state;
    api
      .history(work.id)
      .then((found) => (steps = found))
      .catch((error: unknown) => notices.refuse(error));
  });

  function go(position: number) {
    asking.stop();
    void work.travel(position - at);
  }
</script>

<div class="steps" role="dialog" aria-label="Steps of the drawing">
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
  </ol>
  <button class="quiet" onclick={onclose}>Close</button>
</div>

<style>
  .steps {
    position: absolute;
    right: 0;
    top: 36px;
    z-index: 30;
    width: 280px;
    background: var(--wash);
    border: 1px solid var(--ink2);
    border-radius: 3px;
    padding: 6px;
    white-space: normal;
  }
  ol {
    max-height: 420px;
    overflow: auto;
    margin-bottom: 6px;
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
