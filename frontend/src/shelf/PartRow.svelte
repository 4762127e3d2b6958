<script lang="ts">
  import { Plus } from '@lucide/svelte';
  import { api, type PartInfo } from '../api/client';
  import { bodiesWords, dateWords, massWords, sizeWords } from '../lib/format';
  import { PART_FILES, partCalled } from './called';
  import { router } from '../lib/router.svelte';

  /** A part on the shelf by its newest revision, with those before it; a file that is dropped on it becomes the next. */
  let {
    part: p,
    earlier,
    fresh,
    likely,
    onshow,
    onbring,
    ondo,
  }: {
    part: PartInfo;
    earlier: PartInfo[];
    /** It has just been brought. */
    fresh: boolean;
    /** Of which it may be the next revision. */
    likely?: PartInfo;
    onshow: (part: PartInfo) => void;
    onbring: (files: FileList | null | undefined) => void;
    /** Has something done to parts, then the shelf shown as it is. */
    ondo: (act: () => Promise<unknown>) => Promise<void>;
  } = $props();

  let open = $state(false);
  let over = $state(false);
  let own = $state(false);
  let chooser: HTMLInputElement;

  function drop(e: DragEvent) {
    e.preventDefault();
    e.stopPropagation();
    over = false;
    onbring(e.dataTransfer?.files);
  }
</script>

<!-- svelte-ignore a11y_no_static_element_interactions -->
<div
  class="part"
  class:fresh
  class:over
  data-part={p.key}
  ondragover={(e) => {
    e.preventDefault();
    over = true;
  }}
  ondragleave={() => (over = false)}
  ondrop={drop}
>
  <button class="name" onclick={() => onshow(p)}>
    <b>{p.name}</b>
    <span>{p.number !== p.name ? p.number : ''}</span>
  </button>
  {#if over}
    <span class="hint">Drop its newer file here: its drawings are offered the revision</span>
  {:else if p.damaged}
    <span class="hurt">{p.damaged} <a href={`/api/parts/${p.key}/file`} download>Take out its file</a></span>
  {:else}
    <span>{bodiesWords(p.summary.bodies.length)}, {sizeWords(p.summary.size)}</span>
    <span>{p.material || 'no material'}, {massWords(p.mass)}</span>
    <span class="from">{p.file_name}</span>
  {/if}
  <span class="acts">
    {#if earlier.length}
      <button class="quiet small" aria-expanded={open} onclick={() => (open = !open)}
        >{earlier.length} before</button
      >
    {/if}
    <button
      class="quiet small"
      title="Bring its newer file: its drawings are offered the revision"
      aria-label={`Bring a newer file of ${partCalled(p)}`}
      onclick={() => chooser.click()}>Newer file</button
    >
    <button class="quiet" onclick={() => router.go('new', p.key)}
      ><Plus size={15} aria-hidden="true" /> New drawing</button
    >
  </span>
  <input
    bind:this={chooser}
    type="file"
    accept={PART_FILES}
    hidden
    data-testid={`newer-file-${p.key}`}
    onchange={(e) => {
      onbring(e.currentTarget.files);
      e.currentTarget.value = '';
    }}
  />
  {#if fresh && likely && !own}
    <span class="asked" role="group" aria-label="Whether it is a revision">
      It may be the next revision of {partCalled(likely)} ({likely.file_name}).
      <button class="go" onclick={() => ondo(() => api.changePart(p.key, { former: likely.key }))}
        >It is</button
      >
      <button class="quiet" onclick={() => (own = true)}>It is a part of its own</button>
    </span>
  {/if}
  {#if open || fresh}
    {#each earlier as e (e.key)}
      <span class="asked">
        <button class="quiet small" onclick={() => onshow(e)}>{e.file_name}</button>
        {sizeWords(e.summary.size)}, brought {dateWords(e.created)}{e.drawings
          ? `, shown by ${e.drawings === 1 ? 'one drawing' : `${e.drawings} drawings`}`
          : ''}
        <a href={`#/look/${p.key}/since/${e.key}`}>what has changed since</a>
      </span>
    {/each}
  {/if}
</div>

<style>
  .part {
    display: grid;
    grid-template-columns: 1.5fr 1.5fr 1.5fr 1.1fr auto;
    gap: 3px 14px;
    align-items: center;
    padding: 7px 12px;
    border-bottom: 1px solid var(--rule);
    color: var(--ink2);
  }
  .part:last-child {
    border: 0;
  }
  .part.fresh {
    box-shadow: inset 3px 0 var(--verd);
  }
  .part.over {
    background: var(--field);
    box-shadow: inset 0 0 0 2px var(--verd);
  }
  .hint,
  .hurt {
    grid-column: span 3;
    color: var(--ochre);
  }
  .hint {
    color: var(--verd);
  }
  .asked {
    grid-column: 1 / -1;
    display: flex;
    gap: 12px;
    align-items: baseline;
    font-size: 14.5px;
  }
  a {
    text-decoration: underline;
  }
  .acts {
    display: flex;
    gap: 4px;
    align-items: center;
  }
  .name {
    text-align: left;
    color: var(--ink2);
  }
  .name b {
    color: var(--ink);
    font-weight: 500;
    font-size: 16px;
    border-bottom: 1px solid var(--rule);
  }
  .from {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    font-size: 14px;
  }
  .small {
    font-size: 14px;
    color: var(--ink2);
    padding: 0 5px;
  }
</style>
