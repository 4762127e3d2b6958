<script lang="ts">
  import { api, type DrawingInfo, type SeveralIssued } from '../api/client';
  import { notices } from '../lib/notices.svelte';
  import Slip from '../lib/Slip.svelte';
  import { calledOf } from './called';

  /** Several drawings issued at once, each as its next revision; what went out as one folder or one PDF with a list. */
  let { drawings, onclose }: { drawings: DrawingInfo[]; onclose: () => void } = $props();
  let said = $state({ date: new Date().toISOString().slice(0, 10), words: '', creator: '', approver: '' });
  let busy = $state(false);
  let done = $state.raw<SeveralIssued | null>(null);
  let named = $derived((done?.issued ?? []).map((i) => `${i.drawing}-${i.letter}`).join(','));
  const called = (id: number) => {
    const d = drawings.find((o) => o.id === id);
    return d ? calledOf(d) : `Drawing ${id}`;
  };

  async function issue() {
    busy = true;
    try {
      done = await api.issueSeveral({ drawings: drawings.map((d) => d.id), ...said });
    } catch (error) {
      notices.refuse(error);
    }
    busy = false;
  }
</script>

<Slip title={`Issue ${drawings.length} drawings as revisions`} open {onclose}>
  {#if !done}
    <p>Each goes out under its next letter; its files are made once and kept as they are.</p>
    <form
      onsubmit={(e) => {
        e.preventDefault();
        void issue();
      }}
    >
      <label>Date of issue <input type="date" bind:value={said.date} required /></label>
      <label class="wide"
        >What changed <input
          bind:value={said.words}
          maxlength="300"
          placeholder="of each by itself, from its steps"
        /></label
      >
      <label>Created by <input bind:value={said.creator} maxlength="60" placeholder="as each has it" /></label
      >
      <label
        >Approved by <input bind:value={said.approver} maxlength="60" placeholder="as each has it" /></label
      >
      <div class="wide row">
        <button type="button" onclick={onclose}>Close</button>
        <button class="go" disabled={busy}>{busy ? 'Issuing…' : 'Issue them'}</button>
      </div>
    </form>
  {:else}
    <ul aria-label="What was issued">
      {#each done.issued as i (i.drawing)}<li><b>{i.letter}</b> {called(i.drawing)}</li>{/each}
      {#each done.refused as r (r.drawing)}
        <li class="flag">{called(r.drawing)} was not issued: {r.title}. {r.detail}</li>
      {/each}
    </ul>
    {#if done.issued.length}
      <p class="files">
        <a href={`/api/issues/pdf?issues=${named}`} download>One PDF with a list</a>
        <a href={`/api/issues/zip?issues=${named}`} download>One folder, zipped, with a list</a>
      </p>
    {/if}
    <div class="row"><button onclick={onclose}>Close</button></div>
  {/if}
</Slip>

<style>
  input {
    border: 1px solid var(--rule);
    background: var(--sheet);
    color: var(--pen);
    padding: 2px 6px;
  }
  form {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 10px;
    margin-top: 10px;
  }
  label {
    display: grid;
    color: var(--ink2);
  }
  .wide {
    grid-column: 1/3;
  }
  .row {
    display: flex;
    justify-content: flex-end;
    gap: 8px;
    margin-top: 8px;
  }
  .files {
    display: flex;
    gap: 18px;
    margin-top: 10px;
  }
  .flag {
    color: var(--ochre);
  }
</style>
