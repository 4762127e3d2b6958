<script lang="ts">
  import { onMount } from 'svelte';
  import { interaction } from '../interaction.svelte';
  import { settingAnew } from '../making/hang.svelte';
  import { own } from '../own.svelte';
  import { selected } from '../selection.svelte';

  /** Signs of one's own: set down again, and kept under a name. */
  let name = $state('');
  onMount(() => void own.load());
</script>

{#each own.list as o (o.id)}
  <div>
    <button title="Set it down where you point" onclick={() => interaction.make(settingAnew(o.annotations))}
      >{o.name}<span>of one's own</span></button
    ><button class="out" aria-label={`Remove ${o.name} from what is kept`} onclick={() => own.remove(o.id)}
      >×</button
    >
  </div>
{/each}
{#if selected.ids.length}
  <input
    bind:value={name}
    maxlength="200"
    placeholder="Keep what is selected as…"
    aria-label="Keep what is selected under a name"
    onkeydown={(e) => {
      if (e.key !== 'Enter' || !name.trim()) return;
      void own.keep(name.trim());
      name = '';
    }}
  />
{/if}

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
  .out {
    flex: 0;
    padding: 3.5px 4px;
  }
  span {
    color: var(--ink2);
    font-size: 13.5px;
  }
  input {
    margin-top: 5px;
    background: var(--field);
    color: var(--ink);
    border: 0;
    border-bottom: 1px solid var(--ink2);
    padding: 2px 4px;
    width: 100%;
  }
</style>
