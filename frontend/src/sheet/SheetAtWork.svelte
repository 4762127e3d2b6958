<script lang="ts">
  import { onMount } from 'svelte';
  import Desk from './Desk.svelte';
  import Finder from './Finder.svelte';
  import KeysHelp from './KeysHelp.svelte';
  import RouteCard from './RouteCard.svelte';
  import SentenceLine from './SentenceLine.svelte';
  import { goThrough, issue, acts } from './acts';
  import { offersFor } from './offers';
  import { work } from './work.svelte';

  let { id }: { id: number } = $props();
  let finding = $state(false);
  let keysShown = $state(false);
  let issuing = $state(false);
  let desk: Desk;

  onMount(() => work.open(id));

  let values = $derived(Object.fromEntries((work.ink?.fields ?? []).map((f) => [f.field, f.value])));

  function keys(event: KeyboardEvent) {
    const typing = (event.target as HTMLElement).closest('input, textarea, select');
    const key = event.key;
    if ((event.ctrlKey || event.metaKey) && key.toLowerCase() === 'z') {
      if (typing) return;
      event.preventDefault();
      void (event.shiftKey ? work.redo() : work.undo());
      return;
    }
    if (key === 'Escape' && (keysShown || finding)) {
      // also where the slip has not taken the keys yet
      keysShown = finding = false;
      event.preventDefault();
      return;
    }
    if (typing || event.ctrlKey || event.metaKey || finding || keysShown) return;
    const step = event.shiftKey ? 10 : event.altKey ? 0.1 : 1;
    const moves: Record<string, [number, number]> = {
      ArrowLeft: [-1, 0],
      ArrowRight: [1, 0],
      ArrowUp: [0, 1],
      ArrowDown: [0, -1],
    };
    const onButton = (event.target as HTMLElement).closest('button, a');
    if (key === 'Escape') {
      if (desk.letGo()) work.stop();
      else if (issuing) issuing = false;
      else if (work.doing.kind !== 'nothing') work.stop();
      else if (work.field) work.field = null;
      else if (work.selection.kind !== 'sheet') work.selection = { kind: 'sheet' };
      else work.step = 0;
    } else if (key >= '1' && key <= '8') work.step = work.step === Number(key) ? 0 : Number(key);
    else if (key === '/') finding = true;
    else if (key === '?') keysShown = true;
    else if (key === '+' || key === '=') desk.zoom(1.25);
    else if (key === '-') desk.zoom(0.8);
    else if (key === '0') desk.whole();
    else if (key === 'Delete' || key === 'Backspace') void work.remove();
    else if (key === 'Tab' && work.hover.length > 1 && !onButton)
      work.hoverAt = (work.hoverAt + (event.shiftKey ? work.hover.length - 1 : 1)) % work.hover.length;
    else if (key in moves) {
      const [dx, dy] = moves[key];
      if (work.doing.kind === 'placing') {
        work.pointer = [work.pointer[0] + dx * step, work.pointer[1] - dy * step];
        work.followPlacing();
      } else work.nudge(dx * step, dy * step);
    } else if (key === 'Enter' && !onButton) {
      if (work.doing.kind === 'placing') void work.finishPlacing();
      else desk.press();
    } else if (work.doing.kind === 'placing' && ' asdf'.includes(key.toLowerCase())) {
      const at = ' asdf'.indexOf(key.toLowerCase()) - 1;
      if (at < 0) void work.finishPlacing();
      else if (work.others[at]) {
        work.doing = { ...work.doing, wish: work.others[at] };
        work.followPlacing();
      }
    } else if (' asdf'.includes(key.toLowerCase()) && !(key === ' ' && onButton)) {
      offersFor(work.selection)[' asdf'.indexOf(key.toLowerCase())]?.run();
    } else if (key.toLowerCase() === 'n') goThrough(event.shiftKey ? -1 : 1);
    else {
      const act = acts.find((a) => a.key?.toLowerCase() === key.toLowerCase());
      if (!act) return;
      act.run();
    }
    event.preventDefault();
  }
</script>

<svelte:window onkeydown={keys} />

<div class="frame">
  <header>
    <a href="#/">Shelf ›</a>
    <b>{values.number || 'No number'}</b>
    <span class="title">{values.title}</span>
    <span class="dim">{work.busy || (work.state ? 'all kept' : 'opening…')}</span>
    <div class="tags">
      {#each work.state?.document.sheets ?? [] as s, i (s.id)}
        <button class="tag" class:on={s.id === work.sheetId}>Sheet {i + 1} · {s.size}</button>
      {/each}
    </div>
    <button
      class="quiet"
      disabled={!work.state?.undo}
      title={work.state?.undo ? `Undo: ${work.state.undo}` : 'Nothing to undo yet'}
      onclick={() => work.undo()}>Undo</button
    >
    <button
      class="quiet"
      disabled={!work.state?.redo}
      title={work.state?.redo ? `Redo: ${work.state.redo}` : 'Nothing to redo'}
      onclick={() => work.redo()}>Redo</button
    >
    <button class="quiet" onclick={() => (finding = true)}>Find <kbd>/</kbd></button>
    <div class="issue">
      <button
        class="go"
        aria-haspopup="menu"
        aria-expanded={issuing}
        disabled={!work.state}
        onclick={() => (issuing = !issuing)}>Issue sheet</button
      >
      {#if work.issuing}
        <div class="menu wait" role="status">
          <span>{work.issuing.kind.toUpperCase()} waits for its views</span>
          <progress max="1" value={work.issuing.share}></progress>
          <small>{Math.round(work.issuing.share * 100)} %, {work.issuing.what}</small>
          <button class="quiet" onclick={() => (work.issuing = null)}>Stop</button>
        </div>
      {:else if issuing}
        <div class="menu" role="menu">
          {#each [['pdf', 'PDF, for print'], ['dxf', 'DXF, for other drafters'], ['svg', 'SVG, for documents'], ['png', 'PNG, a picture']] as [kind, words] (kind)}
            <button role="menuitem" onclick={() => ((issuing = false), void issue(kind))}>{words}</button>
          {/each}
        </div>
      {/if}
    </div>
  </header>
  <RouteCard onkeys={() => (keysShown = true)} />
  <Desk bind:this={desk} />
  <SentenceLine />
</div>
{#if finding}<Finder onclose={() => (finding = false)} />{/if}
{#if keysShown}<KeysHelp onclose={() => (keysShown = false)} />{/if}

<style>
  .frame {
    height: 100vh;
    display: grid;
    grid-template: 44px 1fr 52px / auto 1fr;
    overflow: hidden;
  }
  header {
    grid-column: 1/3;
    background: var(--wash);
    border-bottom: 1px solid var(--rule);
    display: flex;
    align-items: center;
    gap: 10px;
    padding: 0 14px;
  }
  header a,
  .dim {
    color: var(--ink2);
  }
  header b {
    font-size: 17px;
  }
  .title {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .dim {
    font-size: 14px;
    white-space: nowrap;
  }
  .tags {
    margin: 0 auto;
    display: flex;
    gap: 4px;
  }
  .tag {
    padding: 3px 12px 4px;
    border: 1px solid var(--rule);
    border-radius: 3px;
    color: var(--ink2);
    white-space: nowrap;
  }
  .tag.on {
    background: var(--field);
    color: var(--ink);
    border-color: var(--ink2);
    font-weight: 500;
  }
  .issue {
    position: relative;
    white-space: nowrap;
  }
  .menu {
    position: absolute;
    right: 0;
    top: 36px;
    z-index: 30;
    display: grid;
    background: var(--wash);
    border: 1px solid var(--ink2);
    border-radius: 3px;
    width: 200px;
  }
  .wait {
    padding: 8px 12px;
    gap: 4px;
    white-space: normal;
  }
  .wait progress {
    width: 100%;
    height: 5px;
    accent-color: #1c7c6e;
  }
  .menu button {
    text-align: left;
    padding: 6px 12px 7px;
  }
  .menu button:hover {
    background: color-mix(in srgb, var(--verd) 14%, transparent);
  }
</style>
