<script lang="ts">
  import { onMount } from 'svelte';
  import { api, type PartInfo } from '../api/client';
  import { bodiesWords, massWords, sizeWords } from '../lib/format';
  import PageHead from '../lib/PageHead.svelte';
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

<PageHead
  title={info?.name ?? ''}
  about={info
    ? [bodiesWords(info.summary.bodies.length), sizeWords(info.summary.size), massWords(info.mass)].join(', ')
    : ''}
>
  <button class="go" onclick={front}>New drawing, this as its front</button>
</PageHead>
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
  main {
    height: calc(100vh - 44px);
    padding: 12px 16px;
  }
</style>
