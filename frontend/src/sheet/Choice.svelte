<script lang="ts" generics="V extends string">
  import { tick } from 'svelte';

  /** A changeable part of a sentence: options to choose from, or typing, or both. */
  let {
    value,
    label,
    options = [],
    typed = false,
    after = '',
    onset,
  }: {
    value: string;
    label: string;
    options?: readonly (readonly [V, string])[];
    typed?: boolean;
    after?: string;
    onset: (v: V) => void;
  } = $props();
  let open = $state(false);
  let input = $state<HTMLInputElement>();
  let root: HTMLSpanElement;

  async function show() {
    open = !open;
    if (open && typed) {
      await tick();
      input?.focus();
      input?.select();
    }
  }
  function pick(v: V) {
    open = false;
    onset(v);
  }
</script>

<svelte:window onpointerdown={(e) => open && !root.contains(e.target as Node) && (open = false)} />
<span class="choice" bind:this={root}>
  <button
    class="part"
    aria-haspopup="listbox"
    aria-expanded={open}
    aria-label={`${label}: ${value}`}
    onclick={show}>{value}</button
  >{after}
  {#if open}
    <!-- svelte-ignore a11y_no_static_element_interactions -->
    <span
      class="pop"
      onkeydown={(e) => {
        e.stopPropagation();
        if (e.key === 'Escape') open = false;
      }}
    >
      <small>{label}</small>
      {#if typed}
        <input
          class="field"
          bind:this={input}
          aria-label={label}
          {value}
          onkeydown={(e) => {
            e.stopPropagation();
            if (e.key === 'Enter') pick(e.currentTarget.value as V);
            if (e.key === 'Escape') open = false;
          }}
        />
      {/if}
      {#each options as [key, words] (key)}
        <button class:now={words === value} onclick={() => pick(key)}>{words}</button>
      {/each}
    </span>
  {/if}
</span>

<style>
  .choice {
    position: relative;
    white-space: nowrap;
  }
  .part {
    border-bottom: 1.5px solid var(--verd);
    color: inherit;
    font-size: inherit;
  }
  .pop {
    position: absolute;
    bottom: 30px;
    left: -8px;
    z-index: 40;
    min-width: 130px;
    max-height: 320px;
    overflow: auto;
    display: grid;
    background: var(--wash);
    border: 1px solid var(--ink2);
    border-radius: 3px;
    padding: 5px;
    font-size: 15px;
  }
  .pop button {
    text-align: left;
    padding: 2px 8px 3px;
    border-radius: 3px;
  }
  .pop button:hover,
  .pop button.now {
    background: color-mix(in srgb, var(--verd) 15%, transparent);
  }
  small {
    color: var(--ink2);
    padding: 0 8px 2px;
  }
  input {
    margin-bottom: 4px;
    width: 150px;
  }
</style>
