<script lang="ts">
  import { onMount } from 'svelte';
  import { titling } from '../titling.svelte';
  import { work } from '../work.svelte';

  /** Templates to give to the sheet, and what can be done with that which it has. */
  let name = $state('');
  let all = $state(false);
  let file = $state<HTMLInputElement>();
  onMount(() => void titling.load());
  let now = $derived(work.sheet?.template || 'ISO 7200');
  let listed = $derived(titling.kept.some((t) => t.name === now));
</script>

<small>Border and title block: {now}{listed ? '' : ', of this drawing'}</small>
{#each titling.kept as t (`${t.id} ${t.name}`)}
  <div>
    <button class:now={t.name === now} onclick={() => titling.take(t.template.name ? t.template : null, all)}
      >{t.name}<span>{t.id === null ? 'comes along' : 'kept'}</span></button
    >{#if t.id !== null}<button
        class="out"
        aria-label={`Remove the template ${t.name} from what is kept`}
        onclick={() => titling.remove(t.id!)}>×</button
      >{/if}
  </div>
{/each}
{#if work.sheets.length > 1}
  <label><input type="checkbox" bind:checked={all} /> on all sheets</label>
{/if}
<input
  class="name"
  bind:value={name}
  maxlength="100"
  placeholder="Keep it under a name…"
  aria-label="Keep the title block under a name"
  onkeydown={(e) => {
    if (e.key !== 'Enter' || !name.trim()) return;
    void titling.keep(name.trim());
    name = '';
  }}
/>
<button onclick={() => titling.export()}>Give it out as a file</button>
<button onclick={() => file?.click()}>Take in a template's file</button>
<input
  bind:this={file}
  type="file"
  hidden
  aria-label="A template's file"
  accept=".json,application/json"
  onchange={() => {
    const chosen = file?.files?.[0];
    if (chosen) void titling.bring(chosen);
    if (file) file.value = '';
  }}
/>

<style>
  div {
    display: flex;
    gap: 6px;
  }
  button {
    flex: 1;
    display: flex;
    justify-content: space-between;
    padding: 3.5px 0;
    text-align: left;
    border-bottom: 1px dotted var(--rule);
  }
  button:hover {
    color: var(--verd);
  }
  .now {
    font-weight: 600;
  }
  .out {
    flex: 0;
    padding: 3.5px 4px;
  }
  span,
  small,
  label {
    color: var(--ink2);
    font-size: 13.5px;
    font-weight: 400;
  }
  small {
    padding-top: 6px;
  }
  .name {
    margin-top: 5px;
    background: var(--field);
    color: var(--ink);
    border: 0;
    border-bottom: 1px solid var(--ink2);
    padding: 2px 4px;
    width: 100%;
  }
</style>
