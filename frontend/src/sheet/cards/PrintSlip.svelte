<script lang="ts">
  import { api } from '../../api/client';
  import { remember, remembered } from '../../lib/remembered';
  import Slip from '../../lib/Slip.svelte';
  import { Refusal } from '../../api/client';
  import { fetched } from '../fetching';
  import { viewsAreThere } from '../issuing';
  import { work } from '../work.svelte';

  /** Sheets on the paper of a printer, at true size; what does not fit is told before. */
  const PAPERS = ['A4', 'A3', 'A2', 'A1', 'A0', 'roll 610', 'roll 914'] as const;
  let paper = $state(remembered('paper'));
  let sheets = $state('');
  let bar = $state(true);
  let plan = $state.raw<{ pages: [number, number][]; warnings: string[] } | null>(null);
  let trouble = $state('');
  const close = () => (work.printing = false);

  $effect(() => {
    const [id, asked, some] = [work.id, paper, sheets];
    let live = true;
    api.printPlan(id, asked, some).then(
      (found) => {
        if (live) [plan, trouble] = [found as typeof plan, ''];
      },
      (error) => {
        if (!live) return;
        plan = null;
        trouble =
          error instanceof Refusal ? `${error.problem.title}. ${error.problem.detail ?? ''}` : String(error);
      },
    );
    return () => (live = false);
  });

  async function print() {
    if (!(await viewsAreThere(work.sheets, 'print'))) return;
    const query = new URLSearchParams({ paper, sheets, bar: bar ? '1' : '0' });
    remember('paper', paper);
    fetched(`/api/drawings/${work.id}/print?${query}`);
    close();
  }
</script>

<Slip title="For the printer, at true size" open onclose={close}>
  <form
    onsubmit={(e) => {
      e.preventDefault();
      if (plan) void print();
    }}
  >
    <label
      >Paper
      <input
        bind:value={paper}
        list="papers"
        placeholder="each sheet on its own size"
        maxlength="20"
      /></label
    >
    <datalist id="papers">
      {#each PAPERS as name (name)}<option value={name}></option>{/each}
    </datalist>
    {#if work.sheets.length > 1}
      <label>Sheets <input bind:value={sheets} placeholder="all, or 1-2,4" maxlength="40" /></label>
    {/if}
    <label class="line"
      ><input type="checkbox" bind:checked={bar} /> a bar of 100 mm in the margin, to measure on paper</label
    >
    <div aria-live="polite">
      {#if trouble}<p class="flag">{trouble}</p>{/if}
      {#each plan?.warnings ?? [] as words, k (k)}<p class="flag">{words}</p>{/each}
      {#if plan}
        <p>
          {plan.pages.length === 1 ? 'One page' : `${plan.pages.length} pages`}: {[
            ...new Set(plan.pages.map(([w, h]) => `${Math.round(w)} × ${Math.round(h)} mm`)),
          ].join(', ')}. Have it printed at 100 %, not fitted to the page.
        </p>
      {/if}
    </div>
    <div class="row">
      <button type="button" onclick={close}>Close</button>
      <button class="go" disabled={!plan}
        >{plan?.warnings.length ? 'Fetch it all the same' : 'Fetch the PDF'}</button
      >
    </div>
  </form>
</Slip>

<style>
  form {
    display: grid;
    gap: 8px;
  }
  label {
    display: grid;
    color: var(--ink2);
  }
  .line {
    display: flex;
    gap: 8px;
    align-items: center;
  }
  input:not([type='checkbox']) {
    border: 1px solid var(--rule);
    background: var(--sheet);
    color: var(--pen);
    padding: 2px 6px;
  }
  .row {
    display: flex;
    justify-content: flex-end;
    gap: 8px;
  }
  .flag {
    color: var(--madder);
  }
</style>
