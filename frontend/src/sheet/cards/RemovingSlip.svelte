<script lang="ts">
  import Slip from '../../lib/Slip.svelte';
  import { selected } from '../selection.svelte';
  import { work } from '../work.svelte';

  /** What becomes of views that hang on one that is removed. */
  let views = $derived(work.hanging(work.removing));
  let alone = $derived(
    views.filter(
      (v) => (v.kind === 'projected' || v.kind === 'pictorial') && work.removing.includes(v.parent ?? ''),
    ),
  );
  let words = $derived(views.map((v) => calledOf(v.id)));

  function calledOf(id: string) {
    const at = work.sheets.findIndex((s) => s.views?.some((v) => v.id === id));
    const here = work.ink?.views.find((v) => v.id === id)?.words;
    const view = views.find((v) => v.id === id);
    const name = here ?? `${view?.kind ?? 'a'} view${view?.letter ? ` ${view.letter}` : ''}`;
    return at + 1 === work.sheetNumber ? name : `${name}, on sheet ${at + 1}`;
  }

  /** What was selected stays so. */
  function leave() {
    const ids = work.removing;
    work.removing = [];
    setTimeout(() => selected.elements(...ids));
  }

  function remove(keep: boolean) {
    const ids = work.removing;
    work.removing = [];
    void work.act({ act: 'remove_views', ids, keep });
  }
</script>

<Slip title="Other views hang on it" open onclose={leave}>
  <p class="mb-2">What is removed takes along what was pulled out of it:</p>
  <ul class="mb-4" aria-label="What hangs on it">
    {#each words as w (w)}<li>{w}</li>{/each}
  </ul>
  {#if alone.length}
    <p class="mb-4">
      {alone.map((v) => calledOf(v.id)).join(', ')} can stay as {alone.length === 1 ? 'a view' : 'views'} of {alone.length ===
      1
        ? 'its'
        : 'their'} own; sections, details and auxiliary views are nothing without it.
    </p>
  {/if}
  <div class="flex justify-end gap-2">
    <button class="quiet" onclick={leave}>Leave it</button>
    {#if alone.length}<button class="quiet" onclick={() => remove(true)}>Keep what can stay</button>{/if}
    <button class="go" onclick={() => remove(false)}>Remove all of it</button>
  </div>
</Slip>

<style>
  ul {
    list-style: disc;
    padding-left: 20px;
  }
</style>
