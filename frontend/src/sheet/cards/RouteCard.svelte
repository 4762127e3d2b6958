<script lang="ts">
  import { kinds } from '../kinds';
  import type { View } from '../../api/client';
  import { counted as count, meshWords } from '../../lib/format';
  import { acts } from '../acts';
  import { interaction } from '../interaction.svelte';
  import Inventory from './Inventory.svelte';
  import type { Loose } from '../making/seat';
  import LooseList from './LooseList.svelte';
  import TemplateList from './TemplateList.svelte';
  import WaysList from './WaysList.svelte';
  import OwnList from './OwnList.svelte';
  import { placing } from '../making/place';
  import { selected } from '../selection.svelte';
  import { work } from '../work.svelte';

  let { onkeys }: { onkeys: () => void } = $props();
  let folded = $state(false);
  let drawing = $derived(work.state?.document);
  let part = $derived(drawing?.parts?.find((p) => !work.views.length || p.key === work.views[0].part));
  let marks = $derived(work.annotations.filter((a) => kinds.get(a.kind)?.counts === 'mark').length);
  let axes = $derived(work.annotations.filter((a) => kinds.get(a.kind)?.counts === 'axis').length);
  let values = $derived(Object.fromEntries((work.ink?.fields ?? []).map((f) => [f.field, f.value])));
  let missing = $derived((work.ink?.fields ?? []).filter((f) => f.missing));
  let meshed = $derived((work.ink?.views ?? []).filter((v) => v.meshed));
  let remarks = $derived(work.ink?.remarks ?? []);
  let loose = $state.raw<Loose[]>([]);
  let sections = $derived(work.views.filter((v) => v.kind === 'section'));
  let locals = $derived(work.views.filter((v) => v.local_cuts?.length));
  let nearer = $derived(
    work.views.filter(
      (v) => v.kind === 'detail' || v.kind === 'auxiliary' || v.crop || (v.breaks?.length ?? 0) > 0,
    ),
  );
  let cuts = $derived([...sections, ...locals, ...nearer]);
  const NEARER: [string, (v: View) => boolean][] = [
    ['detail', (v) => v.kind === 'detail'],
    ['auxiliary view', (v) => v.kind === 'auxiliary'],
    ['broken view', (v) => !!v.breaks?.length],
    ['cropped view', (v) => v.kind !== 'auxiliary' && !!v.crop],
  ];
  /** What of a view is nearer, elsewhere or left out, in words. */
  function nearerWords(v: View): string {
    const shown = shownOf(v.id);
    return [
      ...(shown?.outline?.about ? [`about the ${shown.outline.about}`] : []),
      ...(v.breaks?.length ? ['broken'] : []),
      ...(v.crop ? ['cropped'] : []),
      ...(v.parent ? [`on ${shownOf(v.parent)?.name ?? ''}`] : []),
    ].join(', ');
  }
  let cutWords = $derived(
    [
      ...(sections.length
        ? [sections.map((v) => v.letter || 'turned in').join(', ') + (sections.length > 1 ? ' cut' : '')]
        : []),
      ...(locals.length ? [count(locals.length, 'local cut')] : []),
      ...NEARER.flatMap(([name, is]) => {
        const n = work.views.filter(is).length;
        return n ? [count(n, name)] : [];
      }),
    ].join(' · '),
  );
  let signWords = $derived(
    [...kinds.values()]
      .filter((k) => k.counts === 'sign')
      .flatMap((k) => {
        const n = work.signs.filter((a) => a.kind === k.kind).length;
        return n ? [`${n} ${k.noun[n === 1 ? 0 : 1]}`] : [];
      })
      .join(', '),
  );
  const shownOf = (id: string) => work.ink?.views.find((v) => v.id === id);

  let steps = $derived([
    {
      n: 1,
      name: 'Part',
      state: part ? [part.name, values.mass].filter(Boolean).join(', ') : 'none yet',
      done: !!part,
    },
    {
      n: 2,
      name: 'Sheet',
      state: work.sheet ? `${work.sheet.size}, ${work.ink?.scale_text ?? ''}, ${drawing?.angle} angle` : '',
      done: !!work.sheet,
    },
    {
      n: 3,
      name: 'Views',
      state: work.views.length ? count(work.views.length, 'view') : 'none yet',
      done: work.views.length > 0,
    },
    {
      n: 4,
      name: 'Cuts and close-ups',
      state: cuts.length ? cutWords : 'none yet',
      done: cuts.length > 0,
    },
    {
      n: 5,
      name: 'Centres',
      state: marks + axes ? `${count(marks, 'mark')}, ${count(axes, 'line')}` : 'none yet',
      done: marks + axes > 0,
    },
    {
      n: 6,
      name: 'Sizes',
      state: work.sizes.length ? `${work.sizes.length} stated` : 'none yet',
      done: work.sizes.length > 0,
    },
    {
      n: 7,
      name: 'Notes and signs',
      state: signWords || 'none yet',
      done: work.signs.length > 0,
    },
    {
      n: 8,
      name: 'Check',
      state: [
        missing.length ? `${count(missing.length, 'field')} to fill in` : 'title block filled',
        ...(meshed.length + remarks.length ? [count(meshed.length + remarks.length, 'remark')] : []),
      ].join(', '),
      done: !missing.length && work.views.length > 0,
    },
  ]);
</script>

<aside class:folded>
  {#each steps as s (s.n)}
    {@const own = acts.filter((a) => a.step === s.n)}
    <div class="step" class:open={work.step === s.n} class:done={s.done}>
      <button
        class="row"
        aria-expanded={work.step === s.n}
        onclick={() => ((work.step = work.step === s.n ? 0 : s.n), (folded = false))}
      >
        <span class="n">{s.n}</span>
        {#if !folded}<span class="words"
            ><span class="name">{s.name}</span><span
              class="state"
              class:flag={s.n === 8 && missing.length > 0}>{s.state}</span
            ></span
          >{/if}
      </button>
      {#if work.step === s.n && !folded}
        <div class="tray">
          {#each own as a (a.name)}
            {@const why = a.reason?.() ?? ''}
            <button disabled={!!why} title={why || a.says} onclick={() => a.run()}
              >{a.name}{#if a.key}<kbd>{a.key}</kbd>{/if}</button
            >
            {#if why}<small>{why}</small>{/if}
          {/each}
          {#if s.n === 2}
            <TemplateList />
            <WaysList />
          {:else if s.n === 3}
            {#each work.directions as d (d.name)}
              <button onclick={() => interaction.make(placing(d))}>Place a view: {d.name}</button>
            {/each}
            {#each work.ink?.views ?? [] as v (v.id)}
              <button class="item" onclick={() => selected.elements(v.id)}
                >{v.name}<span>{v.scale_text}</span></button
              >
            {/each}
          {:else if s.n === 4}
            {#each sections as v (v.id)}
              {@const shown = shownOf(v.id)}
              <button class="item two" onclick={() => selected.elements(v.id)}
                >{shown?.name ?? 'Section'}<span
                  >{shown?.section?.fault || shown?.section?.words || ''}, on {shownOf(v.parent)?.name ??
                    ''}</span
                ></button
              >
            {/each}
            {#each nearer as v (v.id)}
              <button class="item two" onclick={() => selected.elements(v.id)}
                >{shownOf(v.id)?.name ?? ''}<span>{nearerWords(v)}</span></button
              >
            {/each}
            {#each locals as v (v.id)}
              <button class="item two" onclick={() => selected.elements(v.id)}
                >Cut open locally<span>in {shownOf(v.id)?.name ?? ''}</span></button
              >
            {/each}
          {:else if s.n === 7}
            <OwnList />
            {#each work.signs as a (a.id)}
              <button class="item" onclick={() => selected.elements(a.id)}
                >{work.elements.get(a.id)?.words ?? ''}<span>{kinds.get(a.kind)?.says?.(a) ?? ''}</span
                ></button
              >
            {/each}
          {:else if s.n === 6}
            <small
              >Press on an edge or circle and pull it away; stay on a second one for a moment to measure
              between both. Or click, click, click.</small
            >
            {#each work.sizes as d (d.id)}
              <button class="item" onclick={() => selected.elements(d.id)}
                >{work.elements.get(d.id)?.words ?? ''}<span>{kinds.get(d.kind)?.says?.(d) ?? ''}</span
                ></button
              >
            {/each}
            <Inventory />
          {:else if s.n === 8}
            {#each missing as f (f.cell)}
              <button class="item flag" onclick={() => (work.field = f.field)}>{f.label} is empty</button>
            {/each}
            {#if remarks.some((r) => r.lies)}
              <button class="item" onclick={() => work.act({ act: 'make_room', sheet: work.sheetId })}
                >Make room for what lies on something</button
              >
            {/if}
            <LooseList bind:found={loose} />
            {#each remarks.filter((r) => !loose.some((l) => l.id === r.on)) as r, i (i)}
              <button class="item flag" onclick={() => selected.elements(r.on)}>{r.words}</button>
            {/each}
            {#each meshed as v (v.id)}
              <button class="item flag" onclick={() => selected.elements(v.id)}
                >{v.name}: {meshWords(v.meshed)}</button
              >
            {/each}
          {/if}
        </div>
      {/if}
    </div>
  {/each}
  <div class="foot">
    <button class="quiet" onclick={() => (folded = !folded)}>{folded ? '»' : '« Fold'}</button>
    {#if !folded}<button class="quiet" onclick={onkeys}>Keys <kbd>?</kbd></button>{/if}
  </div>
</aside>

<style>
  aside {
    width: 212px;
    background: var(--wash);
    border-right: 1px solid var(--rule);
    padding: 10px 0 0;
    display: flex;
    flex-direction: column;
    overflow: auto;
  }
  aside.folded {
    width: 40px;
  }
  .row {
    display: grid;
    grid-template-columns: 34px 1fr;
    width: 100%;
    padding: 7px 12px 7px 0;
    text-align: left;
  }
  .folded .row {
    padding-right: 0;
    grid-template-columns: 40px;
  }
  .row:hover .name {
    color: var(--verd);
  }
  .n {
    justify-self: center;
    width: 21px;
    height: 21px;
    border: 1px solid var(--rule);
    border-radius: 50%;
    display: grid;
    place-items: center;
    font-size: 13px;
    color: var(--ink2);
    margin-top: 1px;
  }
  .done .n {
    background: var(--ink);
    color: var(--wash);
    border-color: var(--ink);
  }
  .step.open {
    background: var(--field);
    box-shadow: inset 3px 0 var(--ink);
  }
  .words {
    display: grid;
    min-width: 0;
  }
  .name {
    font-weight: 500;
    font-size: 16px;
  }
  .state {
    color: var(--ink2);
    font-size: 14px;
    overflow-wrap: anywhere;
  }
  .flag {
    color: var(--ochre) !important;
  }
  .tray {
    padding: 0 12px 10px 34px;
    display: grid;
  }
  .tray button {
    display: flex;
    justify-content: space-between;
    gap: 8px;
    padding: 3.5px 0;
    text-align: left;
    border-bottom: 1px dotted var(--rule);
  }
  .tray button:hover:not(:disabled) {
    color: var(--verd);
  }
  .tray button:disabled {
    color: var(--ink2);
  }
  .tray .item {
    padding-left: 8px;
  }
  .tray .two {
    display: grid;
    gap: 0;
  }
  .item span,
  small {
    color: var(--ink2);
    font-size: 13.5px;
  }
  .foot {
    margin-top: auto;
    display: flex;
    justify-content: space-between;
    padding: 4px 8px 6px;
    font-size: 14px;
  }
</style>
