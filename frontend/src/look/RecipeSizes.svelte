<script lang="ts">
  import type { PartInfo } from '../api/client';
  import { figure, figureTyped } from '../lib/format';
  import { notices } from '../lib/notices.svelte';
  import { building } from './building.svelte';

  /** The sizes of a part that is a recipe, in a table; other values build it anew, as its next revision. */
  let { part, onbuilt }: { part: PartInfo; onbuilt: (key: string) => void } = $props();
  let typed = $state<{ [name: string]: string }>({});
  let sizes = $derived(part.summary.sizes ?? []);
  const changed = (name: string, value: number) =>
    typed[name] !== undefined && figureTyped(typed[name]) !== Number(figure(value));
  let changes = $derived(sizes.filter((s) => changed(s.name, s.value)));

  async function build() {
    const values: { [name: string]: number } = {};
    for (const { name } of changes) {
      const value = figureTyped(typed[name]);
      if (value === null)
        return notices.say(
          `“${typed[name]}” is no figure`,
          `Write a number for ${name}, such as 42.5.`,
          true,
        );
      values[name] = value;
    }
    const key = await building.part(part.key, values);
    if (!key) return;
    typed = {};
    onbuilt(key);
  }

  /** Enter goes down the table, and builds from its last row. */
  function down(e: KeyboardEvent & { currentTarget: HTMLInputElement }) {
    if (e.key === 'Escape' && typed[e.currentTarget.name] !== undefined) {
      e.stopPropagation();
      delete typed[e.currentTarget.name];
    }
    if (e.key !== 'Enter') return;
    const all = [...(e.currentTarget.closest('table')?.querySelectorAll('input') ?? [])];
    const next = all[all.indexOf(e.currentTarget) + 1];
    if (next) next.select();
    else if (changes.length) void build();
  }
</script>

<h2>Sizes of the recipe</h2>
<table aria-label="Sizes of the recipe">
  <tbody>
    {#each sizes as s (s.name)}
      <tr class:changed={changed(s.name, s.value)}>
        <th scope="row">{s.name}</th>
        <td class="value">
          {#if s.written}
            <span title={`worked out as ${s.written}`}>{figure(s.value)}</span>
          {:else}
            <input
              name={s.name}
              aria-label={`${s.name}: ${s.says || 'its value'}`}
              value={typed[s.name] ?? figure(s.value)}
              oninput={(e) => (typed[s.name] = e.currentTarget.value)}
              onkeydown={down}
              disabled={!!building.now}
            />
          {/if}
        </td>
        <td>{s.tolerance}</td>
      </tr>
      <tr class="says"><td colspan="3">{s.says}{s.written ? ` (${s.written})` : ''}</td></tr>
    {/each}
  </tbody>
</table>
<div class="foot">
  <button class="go" disabled={!changes.length || !!building.now} onclick={build}
    >{building.now ? 'Building …' : 'Build it anew'}</button
  >
  {#if changes.length && !building.now}<button onclick={() => (typed = {})}>Leave it as it is</button>{/if}
</div>
<p>
  What is built is the next revision of the part; its drawings are offered it.
  <a href={`/api/parts/${part.key}/file`} download>Take out the recipe</a> to change its steps.
</p>

<style>
  h2 {
    font-size: 17px;
    font-weight: 700;
    margin-bottom: 6px;
  }
  table {
    width: 100%;
    border-collapse: collapse;
  }
  th {
    text-align: left;
    font-weight: 500;
  }
  th,
  td {
    padding: 4px 8px 0 0;
  }
  .value {
    width: 90px;
  }
  input {
    width: 84px;
    padding: 0 4px;
    border-bottom: 1px solid var(--rule);
    background: transparent;
    text-align: right;
  }
  .value span {
    display: block;
    width: 84px;
    padding: 0 4px;
    text-align: right;
    color: var(--ink2);
  }
  .changed input {
    background: var(--field);
    border-bottom-color: var(--ink);
    font-weight: 500;
  }
  .says td {
    padding-top: 0;
    color: var(--ink2);
    font-size: 14px;
    border-bottom: 1px dotted var(--rule);
  }
  .foot {
    display: flex;
    gap: 8px;
    margin: 10px 0;
  }
  a {
    text-decoration: underline;
  }
  p {
    color: var(--ink2);
  }
</style>
