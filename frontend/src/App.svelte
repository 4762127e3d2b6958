<script lang="ts">
  import Notices from './lib/Notices.svelte';
  import { router } from './lib/router.svelte';
  import ComparePage from './compare/ComparePage.svelte';
  import LookPage from './look/LookPage.svelte';
  import { remembered } from './lib/remembered';
  import NewDrawing from './newdrawing/NewDrawing.svelte';
  import GuideCard from './sheet/cards/GuideCard.svelte';
  import SheetAtWork from './sheet/SheetAtWork.svelte';
  import Shelf from './shelf/Shelf.svelte';

  let path = $derived(router.path);
  document.documentElement.dataset.desk = remembered('desk') || 'day';
</script>

{#if path[0] === 'new' && path[1]}
  {#key path[1]}<NewDrawing part={path[1]} />{/key}
{:else if path[0] === 'look' && path[1]}
  {#key path.join()}<LookPage part={path[1]} since={path[2] === 'since' ? path[3] : ''} />{/key}
{:else if path[0] === 'compare' && path[1]}
  {#key path[1]}<ComparePage
      id={Number(path[1])}
      before={decodeURIComponent(path[2] ?? '')}
      after={decodeURIComponent(path[3] ?? '')}
    />{/key}
{:else if path[0] === 'drawing' && path[1]}
  {#key path[1]}<SheetAtWork id={Number(path[1])} />{/key}
{:else}
  <Shelf />
{/if}
<GuideCard />
<Notices />
