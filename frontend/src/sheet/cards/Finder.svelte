<script lang="ts">
  import { kinds } from '../kinds';
  import { Combobox, useListCollection } from '@skeletonlabs/skeleton-svelte';
  import { onMount } from 'svelte';
  import { api, type DrawingInfo } from '../../api/client';
  import { capital } from '../../lib/format';
  import { router } from '../../lib/router.svelte';
  import { acts, moreActs } from '../acts';
  import { offersFor } from '../offers';
  import type { Target } from '../board/hits';
  import { interaction } from '../interaction.svelte';
  import { namesOf } from '../named';
  import { selected } from '../selection.svelte';
  import { work } from '../work.svelte';

  /** One field for all acts, views, sizes and drawings; or, where one is `pointing`, for all that can be pointed at. */
  let { onclose, pointing }: { onclose: () => void; pointing?: (target: Target) => unknown } = $props();
  let text = $state('');
  let drawings = $state<DrawingInfo[]>([]);
  let box = $state<HTMLElement>();

  type Entry = {
    name: string;
    kind: string;
    says?: string;
    key?: string;
    why?: string;
    run: () => unknown;
  };
  /** All that can be pointed at on the sheet, the view that is selected first. */
  function pointed(take: (target: Target) => unknown): Entry[] {
    const own = work.view(selected.one)?.id ?? selected.targets[0]?.view;
    const views = [...(work.ink?.views ?? [])].sort((a, b) => +(b.id === own) - +(a.id === own));
    return views.flatMap((v) =>
      namesOf(
        interaction.fitting(work.hits?.all(v.id) ?? []),
        v.words.replace(/^./, (c) => c.toLowerCase()),
      ).map((n) => ({
        name: capital(n.name),
        kind: n.target.kind,
        run: () => take(n.target),
      })),
    );
  }
  let all = $derived<Entry[]>(
    pointing
      ? pointed(pointing)
      : [
          ...offersFor(selected.now).map((o, i) => ({
            name: o.name,
            kind: 'offer',
            key: ['Space', 'A', 'S', 'D', 'F'][i],
            run: o.run,
          })),
          ...[...acts, ...moreActs].map((a) => ({
            name: a.name,
            kind: 'act',
            says: a.says,
            key: a.key,
            why: a.reason?.(),
            run: a.run,
          })),
          ...(work.ink?.views ?? []).map((v) => ({
            name: v.words,
            kind: 'view',
            run: () => selected.elements(v.id),
          })),
          ...[...work.sizes, ...work.signs].map((d) => ({
            name: `${capital(kinds.get(d.kind)?.spoken ?? kinds.get(d.kind)?.noun[0] ?? '')} ${work.elements.get(d.id)?.words ?? ''}`,
            kind: kinds.get(d.kind)?.counts === 'size' ? 'size' : 'sign',
            run: () => selected.elements(d.id),
          })),
          ...(work.ink?.fields ?? [])
            .filter((f) => !f.auto)
            .map((f) => ({
              name: `Fill in ${f.label.toLowerCase()}`,
              kind: 'title block',
              run: () => (work.field = f.field),
            })),
          ...drawings.map((d) => ({
            name: `${d.number} ${d.title}`,
            kind: 'drawing',
            run: () => router.go('drawing', d.id),
          })),
        ],
  );
  function answers(typed: string): Entry[] {
    const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
    const rank = (name: string) =>
      name.startsWith(words.join(' '))
        ? 0
        : words.every((w) => name.split(/[^\p{L}\p{N}]+/u).some((n) => n.startsWith(w)))
          ? 1
          : words.every((w) => name.includes(w))
            ? 2
            : 3;
    return all
      .filter((e) => {
        const held = `${e.name} ${e.kind} ${e.says ?? ''}`.toLowerCase();
        // signs that keys do not have are found by letters too
        const spelt = `${held} ${held.replaceAll('ø', 'o')} ${held.replaceAll('ø', 'dia')}`;
        return words.every((w) => spelt.includes(w));
      })
      .map((e) => {
        const said = !!words.length && !!e.says?.toLowerCase().includes(words.join(' '));
        return { e, rank: Math.min(rank(e.name.toLowerCase()), said ? 1.5 : 3) };
      })
      .sort((a, b) => a.rank - b.rank)
      .map(({ e }) => e)
      .slice(0, 10);
  }
  let found = $derived(answers(text));
  /** Whether an arrow key chose among what answers; else Enter takes the first of what answers to all that was typed. */
  let chosen = false;

  const collection = $derived(
    useListCollection({
      items: found.map((e, i) => ({ ...e, value: `${i} ${e.kind} ${e.name}` })),
      itemToString: (e) => e.name,
      itemToValue: (e) => e.value,
      isItemDisabled: (e) => !!e.why,
    }),
  );

  onMount(async () => {
    box?.querySelector('input')?.focus();
    try {
      drawings = await api.drawings();
    } catch {
      /* the acts are still there */
    }
  });

  function keys(event: KeyboardEvent) {
    event.stopPropagation();
    if (event.key.startsWith('Arrow')) chosen = true;
    else if (event.key !== 'Enter') chosen = false;
    else if (!chosen) {
      // keys may be faster than what is shown
      const first = answers((event.currentTarget as HTMLInputElement).value).find((e) => !e.why);
      event.preventDefault();
      take(first);
    }
  }

  function take(e: Entry | undefined) {
    if (!e || e.why) return;
    onclose();
    e.run();
  }
</script>

<div class="finder" role="dialog" aria-label="Finder" bind:this={box}>
  <Combobox
    {collection}
    open
    inputBehavior="autohighlight"
    selectionBehavior="preserve"
    inputValue={text}
    onInputValueChange={(e) => (text = e.inputValue)}
    onSelect={(e) => take(collection.find(e.itemValue) ?? undefined)}
    onOpenChange={(e) => e.open || onclose()}
    placeholder={pointing ? 'Point at: Ø40, left edge, hole 3' : 'Find an act, view, size or drawing'}
  >
    <Combobox.Control>
      <Combobox.Input class="field" aria-label="Find" onkeydown={keys} />
    </Combobox.Control>
    <Combobox.Content>
      {#each collection.items as e (e.value)}
        <Combobox.Item item={e} title={e.why}>
          <span
            >{e.name}{#if e.why}<small> · {e.why}</small>{:else if e.says}<small class="says">{e.says}</small
              >{/if}</span
          >
          <span class="kind"
            >{e.kind}{#if e.key}<kbd>{e.key}</kbd>{/if}</span
          >
        </Combobox.Item>
      {/each}
    </Combobox.Content>
  </Combobox>
  {#if !found.length}<p>Nothing answers to “{text}”.</p>{/if}
</div>

<style>
  .finder {
    position: fixed;
    top: 54px;
    left: 50%;
    transform: translateX(-50%);
    width: min(520px, 94vw);
    z-index: 45;
    background: var(--wash);
    border: 1px solid var(--ink2);
    border-radius: 3px;
    padding: 8px;
  }
  .finder :global(input) {
    width: 100%;
    margin-bottom: 6px;
    font-size: 17px;
  }
  .finder :global([role='option']) {
    display: flex;
    justify-content: space-between;
    padding: 3px 9px 4px;
    border-radius: 3px;
  }
  .finder :global([data-highlighted]) {
    background: color-mix(in srgb, var(--verd) 15%, transparent);
  }
  .finder :global([data-disabled]),
  .kind,
  small {
    color: var(--ink2);
  }
  .kind {
    display: flex;
    gap: 8px;
    font-size: 14px;
  }
  .says {
    display: block;
    line-height: 1.25;
  }
  p {
    padding: 6px 9px;
    color: var(--ink2);
  }
</style>
