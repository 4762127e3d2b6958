<script lang="ts">
  import { tick } from 'svelte';
  import { api, type DrawingInfo, type PartInfo } from '../api/client';
  import { dateWords } from '../lib/format';
  import { calledOf, partCalled } from './called';

  /** A drawing on the shelf: its small picture, what it is called, and what can be done with it from here. */
  let {
    drawing: d,
    parts,
    onrescue,
    onremove,
    ondo,
    choosing = false,
    chosen = false,
    onchoose,
  }: {
    drawing: DrawingInfo;
    /** Those on the shelf: a copy may be for another of them. */
    parts: PartInfo[];
    onrescue: () => void;
    onremove: () => void;
    /** Has something done to it, then the shelf shown as it is. */
    ondo: (act: () => Promise<unknown>) => Promise<void>;
    /** Several are being chosen, this one among them. */
    choosing?: boolean;
    chosen?: boolean;
    onchoose: (on: boolean) => void;
  } = $props();

  let filing = $state<string | null>(null);
  let filer = $state<HTMLButtonElement>();

  async function fileIt(said: string | null) {
    filing = null;
    await tick();
    filer?.focus();
    const tags = said
      ?.split(',')
      .map((t) => t.trim())
      .filter(Boolean);
    if (tags && tags.join() !== (d.tags ?? []).join()) await ondo(() => api.fileUnder(d.id, tags));
  }

  let copying = $state(false);
  let copier = $state<HTMLButtonElement>();

  function copy(part: string) {
    copying = false;
    copier?.focus();
    return ondo(() => api.copyDrawing(d.id, part));
  }

  function leave(e: KeyboardEvent) {
    if (e.key !== 'Escape') return;
    e.stopPropagation();
    copying = false;
    copier?.focus();
  }

  let naming = $state<{ number: string; title: string } | null>(null);
  let field = $state<HTMLInputElement>();
  let opener = $state<HTMLButtonElement>();

  /** A small picture whose views are still being projected comes later. */
  function askAgain(event: Event) {
    const picture = event.currentTarget as HTMLImageElement;
    const turn = Number(picture.dataset.turn ?? 0) + 1;
    if (turn > 40) return;
    picture.dataset.turn = String(turn);
    setTimeout(() => (picture.src = picture.src.replace(/&turn=.*|$/, `&turn=${turn}`)), 1500);
  }

  async function begin() {
    naming = { number: d.number, title: d.title };
    await tick();
    field?.focus();
    field?.select();
  }

  async function end() {
    naming = null;
    await tick();
    opener?.focus();
  }

  async function rename() {
    if (!naming) return;
    const said = { number: naming.number.trim(), title: naming.title.trim() };
    const operations = (['number', 'title'] as const)
      .filter((name) => said[name] !== d[name])
      .map((name) => ({ op: 'set_field' as const, field: name, value: said[name] }));
    await end();
    if (operations.length)
      await ondo(() =>
        api.act(d.id, d.edit, {
          act: 'operation',
          operation: { op: 'group', label: 'Rename the drawing', operations },
        }),
      );
  }

  function keys(e: KeyboardEvent) {
    e.stopPropagation();
    if (e.key !== 'Enter' && e.key !== 'Escape') return;
    // the button that has the focus next is not pressed by the same key
    e.preventDefault();
    void (e.key === 'Enter' ? rename() : end());
  }
</script>

<div class="sheet">
  {#if d.damaged}
    <div class="broken" role="note">
      <p>{d.damaged}</p>
      <button class="quiet" onclick={onrescue}>Go back to what can be read</button>
      <a href={`/api/drawings/${d.id}/kept`} download>Take it out as a file</a>
    </div>
  {:else}
    <a href={`#/drawing/${d.id}`} aria-label={`Open ${d.number} ${d.title}`}>
      <img src={`/api/drawings/${d.id}/thumbnail?edit=${d.edit}`} alt="" loading="lazy" onerror={askAgain} />
    </a>
  {/if}
  {#if naming}
    <div class="line naming" role="group" aria-label={`Rename ${calledOf(d)}`}>
      <input
        class="field"
        bind:this={field}
        bind:value={naming.number}
        onkeydown={keys}
        maxlength="300"
        placeholder="Number"
        aria-label="Number of the drawing"
      />
      <input
        class="field"
        bind:value={naming.title}
        onkeydown={keys}
        maxlength="300"
        placeholder="Title"
        aria-label="Title of the drawing"
      />
      <button class="quiet small" onclick={() => rename()}>Keep</button>
    </div>
  {:else}
    <div class="line">
      {#if d.damaged}
        <span><b>{d.number || `Drawing ${d.id}`}</b> {d.title}</span>
      {:else}
        <a class="called" href={`#/drawing/${d.id}`}><b>{d.number || 'No number'}</b> {d.title}</a>
      {/if}
    </div>
  {/if}
  {#if choosing}
    <label class="line choose"
      ><span
        ><input
          type="checkbox"
          checked={chosen}
          onchange={(e) => onchoose(e.currentTarget.checked)}
          aria-label={`Choose ${calledOf(d)}`}
        /> choose it</span
      ></label
    >
  {/if}
  {#if filing !== null}
    <div class="line naming" role="group" aria-label={`File ${calledOf(d)}`}>
      <input
        class="field wide"
        {@attach (field) => field.focus()}
        bind:value={filing}
        onkeydown={(e) => {
          e.stopPropagation();
          if (e.key !== 'Enter' && e.key !== 'Escape') return;
          e.preventDefault();
          void fileIt(e.key === 'Enter' ? filing : null);
        }}
        maxlength="300"
        placeholder="lock 7, spares"
        aria-label="Words to file it under, with commas between"
      />
      <button class="quiet small" onclick={() => fileIt(filing)}>Keep</button>
    </div>
  {:else if d.tags?.length}
    <div class="line"><small>under {d.tags.join(', ')}</small></div>
  {/if}
  {#if d.newer}
    <div class="line">
      <a class="newer" href={`#/drawing/${d.id}`}>a newer revision of its part is there</a>
    </div>
  {/if}
  <div class="line acts">
    <small
      >{d.damaged ? 'damaged' : d.size}{d.sheets > 1 ? `, ${d.sheets} sheets` : ''}
      {d.changed && `· ${dateWords(d.changed)}`}</small
    >
    {#if !d.damaged}
      <button class="quiet small" bind:this={opener} onclick={begin} aria-label={`Rename ${calledOf(d)}`}
        >Rename</button
      >
      <button
        class="quiet small"
        bind:this={filer}
        onclick={() => (filing = (d.tags ?? []).join(', '))}
        aria-label={`File ${calledOf(d)}`}>File</button
      >
      <button
        class="quiet small"
        bind:this={copier}
        onclick={() => (copying = !copying)}
        aria-expanded={copying}
        aria-label={`Copy ${calledOf(d)}`}>Copy</button
      >
    {/if}
    <button class="quiet small" onclick={onremove} aria-label={`Remove ${calledOf(d)}`}>Remove</button>
  </div>
  {#if copying}
    <div class="line" role="group" aria-label={`How to copy ${calledOf(d)}`}>
      <button class="quiet small" {@attach (b) => b.focus()} onclick={() => copy('')} onkeydown={leave}
        >With its part</button
      >
      <select
        class="field small"
        aria-label="Another part that the copy is for: sheets, views and looks without sizes"
        onchange={(e) => copy(e.currentTarget.value)}
        onkeydown={leave}
      >
        <option value="">for another part…</option>
        {#each parts.filter((p) => !p.damaged) as p (p.key)}
          <option value={p.key}>{partCalled(p)}</option>
        {/each}
      </select>
    </div>
  {/if}
</div>

<style>
  .sheet img {
    width: 100%;
    aspect-ratio: 1.414;
    object-fit: contain;
    background: var(--sheet);
    border: 1px solid var(--rule);
    display: block;
  }
  .broken {
    width: 100%;
    aspect-ratio: 1.414;
    padding: 14px;
    border: 1px dashed var(--ochre);
    color: var(--ink2);
    overflow: auto;
  }
  .broken > :global(button),
  .broken a {
    display: block;
    margin-top: 8px;
    padding: 0;
  }
  .newer {
    color: var(--verd);
    text-decoration: underline;
    font-size: 14px;
  }
  .called {
    color: inherit;
  }
  .called:hover {
    text-decoration: underline;
  }
  .sheet a:hover img {
    border-color: var(--verd);
  }
  .line {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
    margin-top: 5px;
  }
  .broken a {
    text-decoration: underline;
  }
  .acts {
    margin-top: 0;
  }
  .acts small {
    flex: 1;
  }
  .naming {
    gap: 6px;
  }
  .naming input {
    min-width: 0;
    flex: 1;
  }
  .naming input.wide {
    flex: 1;
  }
  .naming input:first-child:not(.wide) {
    flex: 0 0 84px;
  }
  small {
    color: var(--ink2);
    font-size: 14px;
  }
  .small {
    font-size: 14px;
    color: var(--ink2);
    padding: 0 5px;
  }
</style>
