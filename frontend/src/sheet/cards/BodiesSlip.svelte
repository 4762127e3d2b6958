<script lang="ts">
  import { api, type PartInfo, type View } from '../../api/client';
  import BodyList from '../../lib/BodyList.svelte';
  import { length } from '../../lib/format';
  import { notices } from '../../lib/notices.svelte';
  import Slip from '../../lib/Slip.svelte';
  import { work } from '../work.svelte';

  /** Which of many bodies a view shows, leaves out, or shows as adjacent parts; told to the view when it is closed. */
  let { view, names, onclose }: { view: View; names: string[]; onclose: () => void } = $props();
  type How = 'shown' | 'adjacent' | 'left out';
  const HOW: How[] = ['shown', 'adjacent', 'left out'];
  let how = $state.raw(
    new Map(
      (() => names)().map((n): [string, How] => [
        n,
        view.adjacent?.includes(n)
          ? 'adjacent'
          : !view.bodies || view.bodies.includes(n)
            ? 'shown'
            : 'left out',
      ]),
    ),
  );
  let said = $state.raw<PartInfo['summary']['bodies']>([]);
  $effect(() => {
    api.part(view.part).then(
      (part) => (said = part.summary.bodies),
      (error) => notices.refuse(error),
    );
  });
  let rows = $derived(
    names.map((name, k) => ({
      name,
      note: said[k] ? `${length(said[k].volume)} mm³` : '',
      alike: said[k]?.volume.toPrecision(6),
    })),
  );

  const stateOf = (own: string[]): How | '' => {
    const found = new Set(own.map((n) => how.get(n)));
    return found.size === 1 ? ([...found][0] ?? '') : '';
  };
  function set(own: string[], to: How) {
    how = new Map([...how, ...own.map((n): [string, How] => [n, to])]);
  }
  let shown = $derived(names.filter((n) => how.get(n) !== 'left out'));

  async function take() {
    const adjacent = names.filter((n) => how.get(n) === 'adjacent');
    const bodies = shown.length === names.length ? null : shown;
    if (await work.setView(view.id, { bodies, adjacent })) onclose();
  }
</script>

<Slip title="Bodies that the view shows" open {onclose}>
  <div class="wide">
    <p>
      {#each HOW as to (to)}
        <button class="quiet" onclick={() => set(names, to)}>All {to}</button>
      {/each}
    </p>
    <BodyList bodies={rows}>
      {#snippet act(own)}
        <span class="how" role="radiogroup" aria-label={own[0]}>
          {#each HOW as to (to)}
            <button role="radio" aria-checked={stateOf(own) === to} onclick={() => set(own, to)}>{to}</button>
          {/each}
        </span>
      {/snippet}
    </BodyList>
    <p class="foot">
      <button class="go" disabled={!shown.length} onclick={take}>Show {shown.length} of {names.length}</button
      >
      <button class="quiet" onclick={onclose}>Leave it</button>
      {#if !shown.length}<small>A view shows at least one body.</small>{/if}
    </p>
  </div>
</Slip>

<style>
  .wide {
    width: 560px;
    max-width: 90vw;
  }
  .how {
    display: flex;
    gap: 10px;
    font-size: 14px;
  }
  .how button {
    color: var(--ink2);
    border-bottom: 2px solid transparent;
    padding: 0;
  }
  .how [aria-checked='true'] {
    color: var(--ink);
    border-color: var(--verd);
  }
  .foot {
    display: flex;
    gap: 14px;
    align-items: center;
    margin-top: 8px;
  }
</style>
