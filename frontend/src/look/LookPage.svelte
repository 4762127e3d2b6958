<script lang="ts">
  import { onMount } from 'svelte';
  import { api, type PartInfo } from '../api/client';
  import { bodiesWords, massWords, sizeWords } from '../lib/format';
  import { notices } from '../lib/notices.svelte';
  import { router } from '../lib/router.svelte';
  import { chosen, keeping } from './chosen.svelte';
  import PartLook from './PartLook.svelte';
  import { STANDARD, type Look } from './turning';

  /** A part of the shelf in space; what is seen can be kept under a name, or be the front of a new drawing. */
  let { part }: { part: string } = $props();
  let info = $state.raw<PartInfo | null>(null);
  let look = $state.raw<Look>(STANDARD[6][1]);
  const directions = keeping(
    () => info,
    (now) => (info = now),
  );

  onMount(async () => {
    try {
      info = await api.part(part);
    } catch (error) {
      notices.refuse(error);
    }
  });

  function front() {
    chosen.now = { part, look };
    router.go('new', part);
  }
</script>

<svelte:window onkeydown={(e) => e.key === 'Escape' && router.go()} />

<header>
  <a href="#/">Shelf ›</a>
  <h1>{info?.name ?? ''}</h1>
  {#if info}<span class="dim"
      >{bodiesWords(info.summary.bodies.length)}, {sizeWords(info.summary.size)}, {massWords(info.mass)}</span
    >{/if}
  <span class="end"><button class="go" onclick={front}>New drawing, this as its front</button></span>
</header>
<main>
  <PartLook
    {part}
    bind:look
    kept={info?.directions ?? []}
    onkeep={directions.keep}
    onforget={directions.forget}
  />
</main>

<style>
  header {
    height: 44px;
    display: flex;
    gap: 10px;
    align-items: center;
    padding: 0 14px;
    background: var(--wash);
    border-bottom: 1px solid var(--rule);
  }
  header a,
  .dim {
    color: var(--ink2);
  }
  .dim {
    font-size: 14.5px;
  }
  h1 {
    font-weight: 700;
    font-size: 17px;
  }
  .end {
    margin-left: auto;
  }
  main {
    height: calc(100vh - 44px);
    padding: 12px 16px;
  }
</style>
