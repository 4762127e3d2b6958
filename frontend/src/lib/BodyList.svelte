<script lang="ts">
  import type { Snippet } from 'svelte';

  /** Bodies of a part with what they weigh or are made of: searched, equal ones as one row with their count, unfolded where
   * one asks; `act` stands at the end of each row, for the names that it holds. */
  type Body = { name: string; note?: string; alike?: string };
  let { bodies, act }: { bodies: Body[]; act?: Snippet<[string[]]> } = $props();
  const MANY = 200;
  let search = $state('');
  let unfolded = $state<string[]>([]);

  /** What further bodies of one name are called is that name with their count; unnamed ones have a number. */
  const plain = (name: string) => name.replace(/ (\(\d+\)|\d+)$/, '');
  let groups = $derived.by(() => {
    const found = new Map<string, { name: string; note: string; names: string[] }>();
    const words = search.toLowerCase().split(/\s+/).filter(Boolean);
    for (const body of bodies) {
      if (!words.every((w) => body.name.toLowerCase().includes(w))) continue;
      const key = `${plain(body.name)} ${body.alike ?? ''}`;
      const own = found.get(key) ?? { name: plain(body.name), note: body.note ?? '', names: [] };
      own.names.push(body.name);
      found.set(key, own);
    }
    return [...found].map(([key, own]) => ({ key, ...own }));
  });
  let rows = $derived(
    groups.flatMap((g) => [
      { key: g.key, name: g.name, note: g.note, names: g.names, inner: false },
      ...(unfolded.includes(g.key) && g.names.length > 1
        ? g.names.map((name, k) => ({ key: `${g.key} ${k}`, name, note: '', names: [name], inner: true }))
        : []),
    ]),
  );
  let most = $state(MANY);
  const fold = (key: string) =>
    (unfolded = unfolded.includes(key) ? unfolded.filter((k) => k !== key) : [...unfolded, key]);
</script>

{#if bodies.length > 8}
  <input class="field" bind:value={search} placeholder="Find a body" aria-label="Find a body" />
  <small role="status"
    >{search ? `${groups.reduce((n, g) => n + g.names.length, 0)} of ${bodies.length}` : bodies.length} bodies,
    {groups.length === 1 ? 'all alike' : `of ${groups.length} kinds`}</small
  >
{/if}
<ul>
  {#each rows.slice(0, most) as row (row.key)}
    <li class:inner={row.inner}>
      {#if !row.inner && row.names.length > 1}
        <button
          class="fold"
          aria-expanded={unfolded.includes(row.key)}
          aria-label={`${row.names.length} × ${row.name}`}
          onclick={() => fold(row.key)}
          ><span aria-hidden="true">{unfolded.includes(row.key) ? '−' : '+'}</span>
          {row.names.length} × {row.name}</button
        >
      {:else}
        <span>{row.name}</span>
      {/if}
      <small>{row.note}</small>
      {#if act}{@render act(row.names)}{/if}
    </li>
  {:else}
    <li><small>No body answers to that.</small></li>
  {/each}
</ul>
{#if rows.length > most}
  <button class="quiet" onclick={() => (most += MANY)}>Show {Math.min(MANY, rows.length - most)} more</button>
{/if}

<style>
  input {
    width: 100%;
    margin-bottom: 4px;
  }
  ul {
    max-height: 320px;
    overflow: auto;
    border-top: 1px solid var(--rule);
  }
  li {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto auto;
    gap: 12px;
    align-items: baseline;
    padding: 3px 2px;
    border-bottom: 1px dotted var(--rule);
    overflow-wrap: anywhere;
  }
  .inner {
    padding-left: 20px;
  }
  .fold {
    text-align: left;
    padding: 0;
  }
  small {
    color: var(--ink2);
    font-size: 14px;
  }
</style>
