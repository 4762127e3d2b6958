<script lang="ts">
  import { notices } from './notices.svelte';
</script>

<div class="notices" role="status" aria-live="polite">
  {#each notices.list as notice (notice.id)}
    <button class="notice" class:bad={notice.bad} onclick={() => notices.drop(notice.id)}>
      <b>{notice.title}</b>{#if notice.detail}<span>{notice.detail}</span>{/if}
    </button>
  {/each}
</div>

<style>
  .notices {
    position: fixed;
    left: 50%;
    top: 54px;
    transform: translateX(-50%);
    display: grid;
    gap: 6px;
    z-index: 60;
    width: min(620px, 92vw);
    pointer-events: none;
  }
  .notice {
    pointer-events: auto;
    text-align: left;
    background: var(--wash);
    color: var(--ink);
    border: 1px solid var(--ink2);
    border-left: 4px solid var(--verd);
    border-radius: 3px;
    padding: 8px 14px 9px;
    display: grid;
  }
  .notice.bad {
    border-left-color: var(--ochre);
  }
  span {
    color: var(--ink2);
  }
</style>
