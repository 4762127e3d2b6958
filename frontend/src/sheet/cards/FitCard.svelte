<script lang="ts">
  import { api } from '../../api/client';
  import type { components } from '../../api/schema';
  import { work } from '../work.svelte';

  type Fit = components['schemas']['FitJson'];

  /** Usual fits on a size: their fields beside each other, and what each is for. */
  let fits = $state.raw<Fit[]>([]);
  let id = $derived(work.fitting);
  $effect(() => {
    const own = work.fitting;
    let live = true;
    api.said(work.id, own).then(
      (found) => live && (fits = found.fits),
      () => live && (fits = []),
    );
    return () => (live = false);
  });
  // wide fields are drawn smaller than they are, so that narrow ones beside them can be told apart
  const eased = (n: number) => Math.sign(n) * Math.sqrt(Math.abs(n));
  let most = $derived(eased(Math.max(1, ...fits.flatMap((f) => [...f.hole, ...f.shaft].map(Math.abs)))));
  const HIGH = 30;
  const bar = ([upper, lower]: [number, number]) => ({
    y: HIGH - (eased(upper) / most) * HIGH,
    height: Math.max(1, ((eased(upper) - eased(lower)) / most) * HIGH),
  });
  const signed = (n: number) => (n > 0 ? `+${n}` : n < 0 ? `−${-n}` : '0');
  const take = (name: string) => work.act({ act: 'state_tolerance', ids: [id], text: name });
</script>

<section class="card over" aria-label="Usual fits">
  {#if fits.length}
    <div class="list">
      <table>
        <tbody>
          {#each fits as f (f.pair)}
            {@const [hole, shaft] = f.pair.split('/')}
            <tr>
              <td class="pair">
                <button title={`Take ${hole}`} onclick={() => take(hole)}>{hole}</button>/<button
                  title={`Take ${shaft}`}
                  onclick={() => take(shaft)}>{shaft}</button
                >
              </td>
              <td>
                <svg width="44" height={2 * HIGH} aria-hidden="true">
                  <line x1="0" x2="44" y1={HIGH} y2={HIGH} stroke="var(--ink2)" stroke-dasharray="3 2" />
                  <rect x="6" width="14" {...bar(f.hole)} fill="var(--hole)" />
                  <rect x="24" width="14" {...bar(f.shaft)} fill="var(--shaft)" />
                </svg>
              </td>
              <td>
                {f.purpose}<small
                  >{signed(f.hole[0])} / {signed(f.hole[1])} and {signed(f.shaft[0])} / {signed(f.shaft[1])} µm:
                  {f.words}</small
                >
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  {:else}
    <p>There are no fits for this size; they are for lengths up to 3150 mm.</p>
  {/if}
  <div class="foot"><button class="quiet" onclick={() => (work.fitting = '')}>Close</button></div>
</section>

<style>
  .card {
    position: absolute;
    right: 12px;
    top: 12px;
    width: 430px;
    max-height: calc(100% - 24px);
    display: flex;
    flex-direction: column;
    background: var(--wash);
    border: 1px solid var(--ink2);
    border-radius: 3px;
    padding: 6px 14px 8px;
    z-index: 4;
    font-size: 14.5px;
  }
  .list {
    overflow-y: auto;
    min-height: 0;
  }
  td {
    padding: 2px 6px 2px 0;
    border-bottom: 1px solid var(--rule);
    vertical-align: middle;
  }
  .pair {
    white-space: nowrap;
    font-weight: 500;
  }
  .pair button {
    text-decoration: underline;
    text-underline-offset: 3px;
  }
  small {
    display: block;
    color: var(--ink2);
  }
  .foot {
    display: flex;
    justify-content: flex-end;
    margin-top: 6px;
  }
</style>
