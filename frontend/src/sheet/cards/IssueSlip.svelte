<script lang="ts">
  import { onMount } from 'svelte';
  import { api, type IssueInfo } from '../../api/client';
  import { dateWords } from '../../lib/format';
  import { notices } from '../../lib/notices.svelte';
  import Slip from '../../lib/Slip.svelte';
  import { viewsAreThere } from '../issuing';
  import { work } from '../work.svelte';

  /** The drawing issued as a revision: its files are made once and kept; what was issued before. */
  let said = $state({ letter: '', date: '', creator: '', approver: '', words: '' });
  let before = $state.raw<IssueInfo[]>([]);
  let busy = $state(false);
  let missing = $derived((work.ink?.fields ?? []).filter((f) => f.missing));
  let remarks = $derived(work.ink?.remarks.length ?? 0);
  const close = () => (work.issuingAs = false);
  const kind = (name: string) => name.split('.').pop()?.toUpperCase() ?? '';

  onMount(async () => {
    try {
      const [next, issues] = await Promise.all([api.nextIssue(work.id), api.issues(work.id)]);
      [said, before] = [next, issues];
    } catch (error) {
      notices.refuse(error);
      close();
    }
  });

  async function issue() {
    busy = true;
    const id = work.id;
    if (await viewsAreThere(work.sheets)) {
      const letter = said.letter;
      const done = await work.issueAs({ ...said });
      if (done && id === work.id) {
        notices.say(
          `Revision ${letter} is issued`,
          'Its files are kept as they are. The drawing is worked on as the next.',
        );
        before = await api.issues(id).catch(() => before);
        said = await api.nextIssue(id).catch(() => said);
      }
    }
    busy = false;
  }
</script>

<Slip title="Issue as a revision" open onclose={close}>
  <p>
    All sheets as PDF, DXF and SVG, the document and the part files are made once and kept as they are,
    whatever becomes of the drawing.
  </p>
  {#if missing.length}<p class="flag">
      Still empty: {missing.map((f) => f.label.toLowerCase()).join(', ')}.
    </p>{/if}
  {#if remarks}<p class="flag">Step 8 has {remarks} remark{remarks === 1 ? '' : 's'}.</p>{/if}
  <form
    onsubmit={(e) => {
      e.preventDefault();
      void issue();
    }}
  >
    <label>Revision <input bind:value={said.letter} maxlength="4" required pattern="[A-Z0-9\-]+" /></label>
    <label>Date of issue <input type="date" bind:value={said.date} required /></label>
    <label class="wide">What changed <input bind:value={said.words} maxlength="300" /></label>
    <label>Created by <input bind:value={said.creator} maxlength="60" /></label>
    <label>Approved by <input bind:value={said.approver} maxlength="60" /></label>
    <div class="wide row">
      <button type="button" onclick={close}>Close</button>
      <button class="go" disabled={busy || !said.letter}
        >{busy ? 'Issuing…' : `Issue revision ${said.letter}`}</button
      >
    </div>
  </form>
  {#if before.length}
    <h3>Issued</h3>
    <ul aria-label="Issued revisions">
      {#each before as i (i.id)}
        <li>
          <b>{i.letter}</b> <span>{dateWords(i.date)}{i.approver ? `, ${i.approver}` : ''}</span>
          <small>{i.words}</small>
          <span class="files">
            {#each i.files as f (f.name)}
              <a
                href={`/api/drawings/${work.id}/issues/${i.letter}/${f.name}`}
                title={`${f.name}, SHA-256 ${f.sha256}`}
                download
                >{f.name.startsWith('part-')
                  ? 'part'
                  : f.name.includes('-sheet-')
                    ? `SVG ${f.name.match(/sheet-(\d+)/)?.[1]}`
                    : kind(f.name)}</a
              >
            {/each}
            <a href={`#/compare/${work.id}/issue-${i.letter}/now`}>compare</a>
          </span>
        </li>
      {/each}
    </ul>
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
    gap: 8px 14px;
    margin-top: 8px;
  }
  label {
    display: grid;
    color: var(--ink2);
  }
  .wide {
    grid-column: 1 / -1;
  }
  .row {
    display: flex;
    justify-content: flex-end;
    gap: 8px;
  }
  .flag {
    color: var(--madder);
  }
  h3 {
    margin: 12px 0 2px;
    font-weight: 600;
  }
  ul {
    max-height: 30vh;
    overflow: auto;
  }
  li {
    display: flex;
    flex-wrap: wrap;
    gap: 0 10px;
    padding: 3px 0;
    border-top: 1px solid var(--rule);
  }
  small {
    flex: 1;
    color: var(--ink2);
  }
  .files a {
    margin-left: 8px;
  }
</style>
