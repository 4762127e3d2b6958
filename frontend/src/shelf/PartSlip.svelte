<script lang="ts">
  import { onMount } from 'svelte';
  import { api, done, UNITS, type Material, type PartInfo, type Unit } from '../api/client';
  import BodyList from '../lib/BodyList.svelte';
  import { length, massWords, sizeWords } from '../lib/format';
  import { notices } from '../lib/notices.svelte';
  import { partCalled } from './called';
  import { router } from '../lib/router.svelte';
  import Slip from '../lib/Slip.svelte';

  /** What was read of a part; its name, number and material can be set. */
  let { part, onclose }: { part: PartInfo; onclose: () => void } = $props();
  let now = $state((() => part)());
  let materials = $state<Material[]>([]);

  let others = $state.raw<PartInfo[]>([]);

  onMount(async () => {
    try {
      [materials, others] = await Promise.all([api.materials(), api.parts()]);
    } catch (error) {
      notices.refuse(error);
    }
  });

  async function set(changes: object) {
    try {
      now = await api.changePart(now.key, changes);
    } catch (error) {
      notices.refuse(error);
    }
  }

  function material(name: string) {
    const known = materials.find((m) => m.name === name);
    void set(known ? { material: name, density: known.density } : { material: name });
  }

  function density(text: string) {
    if (!text.trim()) return void set({ density: null });
    const value = Number(text.replace(',', '.'));
    if (value > 0 && value < 100) void set({ density: value });
    else notices.say('That is not a density', 'Give g/cm³ between 0 and 100; steel has 7.85.', true);
  }

  let reading = $state('');

  /** Read the file as another unit: it becomes a part of its own. */
  async function readAs(unit: Unit) {
    reading = unit;
    try {
      now = await api.part(await done(await api.readAgain(now.key, unit)));
    } catch (error) {
      notices.refuse(error);
    }
    reading = '';
  }

  async function remove() {
    try {
      await api.removePart(now.key);
      onclose();
    } catch (error) {
      notices.refuse(error);
    }
  }

  /** The products in the order of what stands in what, each where it is met first, with how deep that is. */
  let products = $derived.by(() => {
    const all = now.summary.products ?? [];
    const found: ((typeof all)[number] & { depth: number })[] = [];
    const met = new Set<number>();
    const below = (name: string | null, depth: number) => {
      all.forEach((p, row) => {
        if (met.has(row) || !(name === null ? !p.of.length : p.of.includes(name))) return;
        met.add(row);
        found.push({ ...p, depth });
        below(p.name, depth + 1);
      });
    };
    below(null, 0);
    return found;
  });
</script>

<Slip title={now.name || now.file_name} open {onclose}>
  <div class="grid">
    <label
      >Name <input
        class="field"
        value={now.name}
        onchange={(e) => set({ name: e.currentTarget.value })}
      /></label
    >
    <label
      >Number <input
        class="field"
        value={now.number}
        onchange={(e) => set({ number: e.currentTarget.value })}
      /></label
    >
    <label>
      Material
      <input
        class="field"
        list="materials"
        value={now.material}
        onchange={(e) => material(e.currentTarget.value)}
      />
      <datalist id="materials"
        >{#each materials as m (m.name)}<option value={m.name}>{m.density} g/cm³</option>{/each}</datalist
      >
    </label>
    <label
      >Density, g/cm³ <input
        class="field"
        value={now.density ?? ''}
        placeholder="from the file"
        onchange={(e) => density(e.currentTarget.value)}
      /></label
    >
  </div>
  <label class="former"
    >Next revision of
    <select
      class="field"
      value={now.former ?? ''}
      onchange={async (e) => {
        const select = e.currentTarget;
        await set({ former: select.value });
        select.value = now.former ?? '';
      }}
    >
      <option value="">no other part</option>
      {#each others.filter((o) => o.key !== now.key) as o (o.key)}
        <option value={o.key}>{partCalled(o)}, {o.file_name}</option>
      {/each}
    </select></label
  >
  {#if now.former}<a class="former" href={`#/look/${now.key}/since/${now.former}`}>What has changed since</a
    >{/if}
  <dl>
    <dt>File</dt>
    <dd>{now.file_name}, in {now.summary.unit}s</dd>
    <dt>Size</dt>
    <dd>{sizeWords(now.summary.size)}</dd>
    <dt>Volume</dt>
    <dd>{length(now.summary.volume)} mm³</dd>
    <dt>Area</dt>
    <dd>{length(now.summary.area)} mm²</dd>
    <dt>Centroid</dt>
    <dd>{now.summary.centroid.map((c) => Number(c.toFixed(3))).join(', ')} mm</dd>
    <dt>Mass</dt>
    <dd>{massWords(now.mass)}</dd>
    <dt>Geometry</dt>
    <dd>{now.summary.faces} faces, {now.summary.edges} edges</dd>
    {#if now.summary.bodies.length > 1}
      <dt>Bodies</dt>
      <dd>
        <BodyList
          bodies={now.summary.bodies.map((b) => ({
            name: b.name,
            note: [b.material, `${length(b.volume)} mm³`].filter(Boolean).join(', '),
            alike: b.volume.toPrecision(6),
          }))}
        />
      </dd>
    {/if}
    {#if now.summary.bodies.length === 1 && now.summary.bodies[0].material}
      <dt>Material</dt>
      <dd>{now.summary.bodies[0].material}, as the file says</dd>
    {/if}
    {#if products.length > 1}
      <dt>Products</dt>
      <dd>
        <ul aria-label="Products">
          {#each products as p, i (i)}
            <li style={`padding-left:${14 * p.depth}px`}>
              {#if p.depth}{p.quantity} ×{/if}
              {p.name}{#if p.number && p.number !== p.name}, {p.number}{/if}
              <small
                >{#if p.of.length > 1}in {p.of.join(
                    ' and in ',
                  )}{:else if !p.bodies && p.depth}sub-assembly{/if}</small
              >
            </li>
          {/each}
        </ul>
      </dd>
    {/if}
    {#if now.doubtful_unit}
      <dt>Unit</dt>
      <dd class="remark" role="group" aria-label="Unit of the file">
        {sizeWords(now.summary.size)} is an unusual size. Is the file's unit right? Read it as
        {#each UNITS as unit (unit)}
          <button class="quiet small" disabled={!!reading} onclick={() => readAs(unit)}
            >{reading === unit ? 'reading' : unit}</button
          >
        {/each}
      </dd>
    {/if}
    {#each now.summary.remarks as remark (remark)}<dt>Remark</dt>
      <dd class="remark">{remark}</dd>{/each}
  </dl>
  <div class="acts flex justify-between gap-2">
    <button class="quiet" onclick={remove}>Remove from the shelf</button>
    <span>
      <button class="quiet" onclick={onclose}>Close</button>
      <button class="quiet" onclick={() => router.go('look', now.key)}>Look at it in space</button>
      <button class="go" onclick={() => router.go('new', now.key)}>New drawing</button>
    </span>
  </div>
</Slip>

<style>
  .former {
    display: block;
    margin-top: 8px;
  }
  .former select {
    max-width: 340px;
  }
  a.former {
    text-decoration: underline;
  }
  .grid {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 8px 14px;
    min-width: 460px;
  }
  label {
    display: grid;
    color: var(--ink2);
    font-size: 14px;
  }
  dl {
    display: grid;
    grid-template-columns: 90px 1fr;
    margin: 14px 0 8px;
    gap: 1px 10px;
  }
  dt {
    color: var(--ink2);
  }
  .remark {
    color: var(--ochre);
  }
  ul {
    max-height: 150px;
    overflow: auto;
  }
  li {
    break-inside: avoid;
  }
  small {
    color: var(--ink2);
  }
  /* what can be done stays in sight, however long the list */
  .acts {
    position: sticky;
    bottom: -18px;
    margin: 10px -22px -18px;
    padding: 10px 22px 14px;
    background: var(--wash);
    border-top: 1px solid var(--rule);
  }
</style>
