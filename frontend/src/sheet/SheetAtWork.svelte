<script lang="ts">
  import { Menu, Popover } from '@skeletonlabs/skeleton-svelte';
  import { onMount } from 'svelte';
  import { acts, goThrough } from './acts';
  import { interaction } from './interaction.svelte';
  import Board from './board/Board.svelte';
  import type { Target } from './board/hits';
  import Finder from './cards/Finder.svelte';
  import History from './cards/History.svelte';
  import IssueSlip from './cards/IssueSlip.svelte';
  import PrintSlip from './cards/PrintSlip.svelte';
  import { issue } from './issuing';
  import KeysHelp from './cards/KeysHelp.svelte';
  import { kinds } from './kinds';
  import { offersFor } from './offers';
  import { putCopied } from './own.svelte';
  import OfferedRevision from './cards/OfferedRevision.svelte';
  import RevisionSlip from './cards/RevisionSlip.svelte';
  import RemovingSlip from './cards/RemovingSlip.svelte';
  import RouteCard from './cards/RouteCard.svelte';
  import { selected } from './selection.svelte';
  import SentenceLine from './sentences/SentenceLine.svelte';
  import SheetTags from './SheetTags.svelte';
  import { viewport } from './board/viewport.svelte';
  import { titling } from './titling.svelte';
  import { work } from './work.svelte';

  let { id }: { id: number } = $props();
  let finding = $state(false);
  /** What is to be pointed at is looked for by its name. */
  let naming = $state(false);
  let keysShown = $state(false);
  let stepping = $state(false);
  const BELOW = { placement: 'bottom-end', strategy: 'fixed', gutter: 6 } as const;
  let board: Board;

  onMount(() => {
    interaction.stop();
    void work.open(id);
    return () => work.close();
  });

  let values = $derived(Object.fromEntries((work.ink?.fields ?? []).map((f) => [f.field, f.value])));

  /** Move what is selected by so many mm on the sheet (y up), in one step. */
  function nudge(dx: number, dy: number) {
    void work.together(
      'Move what is selected',
      selected.ids.flatMap(
        (one) => kinds.get(work.elements.get(one)?.kind ?? '')?.moved?.(one, dx, dy) ?? [],
      ),
    );
  }

  function turn(way: 'undo' | 'redo') {
    interaction.stop();
    void work[way]();
  }

  const MOVES: { [key: string]: [number, number] } = {
    ArrowLeft: [-1, 0],
    ArrowRight: [1, 0],
    ArrowUp: [0, 1],
    ArrowDown: [0, -1],
  };

  /** What a drawing is issued as; of several sheets all, or this one. */
  let formats = $derived.by(() => {
    const several = work.sheets.length > 1;
    return [
      ['revision', 'As a revision, kept as it is…'],
      ['pdf', several ? 'PDF of all sheets, for print' : 'PDF, for print'],
      ...(several ? [['pdf one', 'PDF of this sheet']] : []),
      ['archive', 'For archives: a PDF with the drawing and its parts in it'],
      ['print', 'For the printer, at true size…'],
      ['dxf', several ? 'DXF of this sheet' : 'DXF, for other drafters'],
      ...(several ? [['dxf all', 'DXF of all sheets, as its layouts']] : []),
      ['svg', several ? 'SVG of this sheet' : 'SVG, for documents'],
      ['png', several ? 'PNG of this sheet' : 'PNG, a picture'],
      ['json', 'The drawing as a document'],
      ['quill', 'All in one file, with its parts'],
    ] as const;
  });

  /** Point at something that was found by its name, and press it as a click would. */
  function pointAt(target: Target) {
    interaction.hover = [target];
    interaction.hoverAt = 0;
    interaction.pointer = [target.x, target.y];
    if (interaction.doing.kind === 'cutting') void interaction.cutClick();
    else if (interaction.doing.kind === 'making') void interaction.makingClick();
    else if (interaction.doing.kind === 'nothing') board.pressTarget();
  }

  function escape() {
    if (board.letGo()) interaction.stop();
    else if (interaction.doing.kind !== 'nothing') interaction.stop();
    else if (titling.on) {
      if (titling.chosen.length) titling.chosen = [];
      else titling.end();
    } else if (work.field) work.field = null;
    else if (work.styling) work.styling = '';
    else if (work.viewStyling) work.viewStyling = '';
    else if (work.fitting) work.fitting = '';
    else if (selected.now.kind !== 'sheet') selected.nothing();
    else work.step = 0;
  }

  /** A letter takes an offer; while a size is being placed, another of its meanings. Space takes the first. */
  function offered(key: string): boolean {
    const at = ' asdf'.indexOf(key.toLowerCase());
    if (at < 0) return false;
    if (interaction.doing.kind === 'nothing') offersFor(selected.now)[at]?.run();
    else if (interaction.doing.kind === 'cutting') {
      if (at === 0) interaction.endLine();
      else if (interaction.others[at - 1]) interaction.another(interaction.others[at - 1]);
    } else if (interaction.doing.kind === 'making') {
      if (at === 0) void interaction.makingClick();
      else interaction.doing.making.others?.()[at - 1]?.run();
    } else if (at === 0) void interaction.finish();
    else if (interaction.doing.kind === 'placing' && interaction.others[at - 1]) {
      interaction.doing = { ...interaction.doing, wish: interaction.others[at - 1] };
      interaction.follow();
    }
    return true;
  }

  function keys(event: KeyboardEvent) {
    const typing = (event.target as HTMLElement).closest('input, textarea, select');
    const key = event.key;
    if (key === 'Escape' && (keysShown || finding || naming)) {
      // also where the slip has not taken the keys yet
      keysShown = finding = naming = false;
      event.preventDefault();
      return;
    }
    const within = (event.target as HTMLElement).closest('.pop, [aria-expanded=true]');
    if (
      typing ||
      within ||
      finding ||
      naming ||
      keysShown ||
      work.removing.length ||
      work.issuingAs ||
      work.printing
    )
      return;
    if (event.ctrlKey || event.metaKey) {
      if (key.toLowerCase() === 'z') turn(event.shiftKey ? 'redo' : 'undo');
      else if (key.toLowerCase() === 'a')
        selected.elements(...[...work.views, ...work.annotations].map((e) => e.id));
      else if (key.toLowerCase() === 'c') work.copy(false);
      else if (key.toLowerCase() === 'x') work.copy(true);
      else if (key.toLowerCase() === 'v') putCopied();
      else return;
      event.preventDefault();
      return;
    }
    const step = event.shiftKey ? 10 : event.altKey ? 0.1 : 1;
    const onButton = (event.target as HTMLElement).closest('button, a');
    if (key === 'Escape') escape();
    else if (titling.on && titling.keys(key, event.shiftKey)) {
      // taken
    } else if (key >= '1' && key <= '8') work.step = work.step === Number(key) ? 0 : Number(key);
    else if (key === '/') finding = true;
    else if (key === '.') naming = true;
    else if (key === 'PageDown' || key === 'PageUp') {
      const by = key === 'PageDown' ? 1 : -1;
      if (event.shiftKey) void work.moveSheet(work.sheetId, work.sheetNumber - 1 + by);
      else void work.stepSheet(by);
    } else if (key === '?') keysShown = true;
    else if (key === '+' || key === '=') viewport.zoom(1.25);
    else if (key === '-') viewport.zoom(0.8);
    else if (key === '0') board.whole();
    else if (key === 'Backspace' && interaction.doing.kind !== 'nothing') interaction.back();
    else if (key === 'Delete' || key === 'Backspace') void work.remove();
    else if (key === 'Tab' && interaction.hover.length > 1 && !onButton)
      interaction.hoverAt =
        (interaction.hoverAt + (event.shiftKey ? interaction.hover.length - 1 : 1)) %
        interaction.hover.length;
    else if (key in MOVES) {
      const [dx, dy] = MOVES[key];
      if (interaction.doing.kind !== 'nothing') {
        interaction.pointer = [interaction.pointer[0] + dx * step, interaction.pointer[1] - dy * step];
        interaction.follow();
      } else nudge(dx * step, dy * step);
    } else if (key === 'Enter' && interaction.doing.kind === 'cutting') interaction.endLine();
    else if (key.toLowerCase() === 'l' && interaction.doing.kind === 'cutting') interaction.flip();
    else if (key === 'Enter' && interaction.doing.kind === 'making') void interaction.makingClick();
    else if (key === 'Enter' && interaction.doing.kind !== 'nothing') void interaction.finish();
    else if (key === 'Enter' && !onButton) board.pressTarget();
    else if (!(key === ' ' && onButton && interaction.doing.kind === 'nothing') && offered(key)) {
      // taken
    } else if (key.toLowerCase() === 'n') goThrough(event.shiftKey ? -1 : 1);
    else {
      const act = acts.find((a) => a.key?.toLowerCase() === key.toLowerCase());
      if (!act || act.reason?.()) return;
      act.run();
    }
    event.preventDefault();
  }
</script>

<svelte:window onkeydown={keys} />

<div class="frame">
  <header>
    <a href="#/">Shelf ›</a>
    <h1>
      <b>{values.number || 'No number'}</b>
      <span class="title">{values.title}</span>
    </h1>
    <span class="dim">{work.busy || (work.state ? 'all kept' : 'opening…')}</span>
    <SheetTags />
    <button
      class="quiet"
      disabled={!work.state?.undo}
      title={work.state?.undo ? `Undo: ${work.state.undo}` : 'Nothing to undo yet'}
      onclick={() => turn('undo')}>Undo</button
    >
    <button
      class="quiet"
      disabled={!work.state?.redo}
      title={work.state?.redo ? `Redo: ${work.state.redo}` : 'Nothing to redo'}
      onclick={() => turn('redo')}>Redo</button
    >
    <Popover open={stepping} onOpenChange={(e) => (stepping = e.open)} positioning={BELOW}>
      <Popover.Trigger class="quiet" disabled={!work.state}>Steps</Popover.Trigger>
      <Popover.Positioner class="layer">
        <Popover.Content class="pop steps" aria-label="Steps of the drawing"
          >{#if stepping}<History />{/if}</Popover.Content
        >
      </Popover.Positioner>
    </Popover>
    <button class="quiet" onclick={() => (finding = true)}>Find <kbd>/</kbd></button>
    <div class="issue">
      <Menu positioning={BELOW} onSelect={(e) => void issue(e.value)}>
        <Menu.Trigger class="go" disabled={!work.state}>Issue sheet</Menu.Trigger>
        <Menu.Positioner class="layer">
          <Menu.Content class="pop" aria-label="Issue sheet">
            {#each formats as [kind, words] (kind)}
              <Menu.Item value={kind}>{words}</Menu.Item>
            {/each}
          </Menu.Content>
        </Menu.Positioner>
      </Menu>
      {#if work.issuing}
        <div class="wait" role="status">
          <span>{work.issuing.kind.toUpperCase()} waits for its views</span>
          <progress max="1" value={work.issuing.share} aria-label="How far its views are"></progress>
          <small>{Math.round(work.issuing.share * 100)} %, {work.issuing.what}</small>
          <button class="quiet" onclick={() => (work.issuing = null)}>Stop</button>
        </div>
      {/if}
    </div>
  </header>
  <RouteCard onkeys={() => (keysShown = true)} />
  <main><Board bind:this={board} /></main>
  <OfferedRevision />
  <SentenceLine />
</div>
{#if finding}<Finder onclose={() => (finding = false)} />{/if}
{#if naming}<Finder onclose={() => (naming = false)} pointing={pointAt} />{/if}
{#if work.revising}<RevisionSlip />{/if}
{#if work.issuingAs}<IssueSlip />{/if}
{#if work.printing}<PrintSlip />{/if}
{#if work.removing.length}<RemovingSlip />{/if}
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
    white-space: nowrap;
  }
  h1 {
    display: flex;
    align-items: baseline;
    gap: 10px;
    min-width: 0;
    font-weight: 400;
  }
  main {
    display: contents;
  }
  header b {
    font-size: 17px;
    white-space: nowrap;
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
  .issue {
    position: relative;
    white-space: nowrap;
  }
  .wait {
    position: absolute;
    right: 0;
    top: 40px;
    z-index: 30;
    display: grid;
    background: var(--wash);
    border: 1px solid var(--ink2);
    border-radius: 3px;
    width: 200px;
    padding: 8px 12px;
    gap: 4px;
    white-space: normal;
  }
  .wait progress {
    width: 100%;
    height: 5px;
    accent-color: var(--sheet-verd);
  }
</style>
