<script lang="ts" generics="V extends string">
  import { Menu, Popover } from '@skeletonlabs/skeleton-svelte';
  import { untrack } from 'svelte';

  /** A changeable part of a sentence: options to choose from, or typing, or both. */
  let {
    value,
    label,
    options = [],
    typed = false,
    text = undefined,
    after = '',
    onset,
  }: {
    value: string;
    label: string;
    options?: readonly (readonly [V, string])[];
    typed?: boolean;
    /** What is typed over, where that is not what is shown. */
    text?: string;
    after?: string;
    onset: (v: V) => void;
  } = $props();
  let open = $state(false);
  let input = $state<HTMLInputElement>();
  /** What was typed between the press that opens and the field's being there: a busy machine takes a while. */
  let early = $state<string>();
  let entered = $state(false);

  function waiting(e: KeyboardEvent) {
    if (early === undefined || e.ctrlKey || e.metaKey || e.altKey) return;
    if (e.key.length === 1) early += e.key;
    else if (e.key === 'Enter') entered = early !== '';
    else return;
    e.preventDefault();
    e.stopPropagation();
  }
  function ready(field: HTMLInputElement) {
    input = field;
    if (early) field.value = early;
    field.focus();
    if (!early) field.select();
    early = undefined;
    if (entered) pick(field.value as V);
  }

  /** What is typed while the list itself has the focus, on its way to the field. */
  function stray(e: KeyboardEvent) {
    if (e.target !== e.currentTarget || !input || e.key.length !== 1) return;
    if (e.ctrlKey || e.metaKey || e.altKey) return;
    e.preventDefault();
    input.focus();
    input.setRangeText(e.key, input.selectionStart ?? 0, input.selectionEnd ?? 0, 'end');
  }

  function pick(v: V) {
    open = false;
    onset(v);
  }
  const ABOVE = { placement: 'top-start', strategy: 'fixed', gutter: 4 } as const;
</script>

<span class="choice">
  {#if typed}
    <Popover
      {open}
      onOpenChange={(e) => (open = e.open)}
      positioning={ABOVE}
      initialFocusEl={() => input ?? null}
    >
      <Popover.Trigger
        class="part"
        aria-label={`${label}: ${value}`}
        onclick={() => {
          early = open ? undefined : '';
          entered = false;
        }}
        onkeydown={waiting}>{value}</Popover.Trigger
      >{after}
      <Popover.Positioner class="layer">
        <Popover.Content class="pop" aria-label={label} onkeydown={stray}>
          {#if open}
            <small>{label}</small>
            <input
              class="field"
              {@attach (field) => untrack(() => ready(field))}
              aria-label={label}
              value={text ?? value}
              onkeydown={(e) => {
                if (e.key === 'Enter') pick(e.currentTarget.value as V);
              }}
            />
            {#each options as [key, words] (key)}
              <button class:now={words === value} onclick={() => pick(key)}>{words}</button>
            {/each}
          {/if}
        </Popover.Content>
      </Popover.Positioner>
    </Popover>
  {:else}
    <Menu
      {open}
      onOpenChange={(e) => (open = e.open)}
      positioning={ABOVE}
      onSelect={(e) => onset(e.value as V)}
    >
      <Menu.Trigger class="part" aria-label={`${label}: ${value}`}>{value}</Menu.Trigger>{after}
      <Menu.Positioner class="layer">
        <Menu.Content class="pop" aria-label={label}>
          {#if open}
            <small>{label}</small>
            {#each options as [key, words] (key)}
              <Menu.Item value={key} class={words === value ? 'now' : ''}>{words}</Menu.Item>
            {/each}
          {/if}
        </Menu.Content>
      </Menu.Positioner>
    </Menu>
  {/if}
</span>

<style>
  .choice {
    white-space: nowrap;
  }
</style>
