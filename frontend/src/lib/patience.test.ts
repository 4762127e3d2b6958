import { describe, expect, it } from 'vitest';
import { Refusal } from '../api/client';
import { patiently } from './patience';

const refusal = (status: number) => new Refusal({ type: '', title: 'no', status, detail: '' });

describe('what failed in passing', () => {
  it('is asked for again until it goes through', async () => {
    let asked = 0;
    const found = await patiently(
      () => (++asked < 3 ? Promise.reject(refusal(503)) : Promise.resolve(asked)),
      () => true,
      [1, 1, 1],
    );
    expect(found).toBe(3);
  });

  it('is refused at once where it would fail again, or nobody wants it any more, and at last', async () => {
    for (const [status, wanted, times] of [
      [422, true, 1],
      [503, false, 1],
      [0, true, 3],
    ] as const) {
      let asked = 0;
      const ask = () => (asked++, Promise.reject(refusal(status)));
      await expect(patiently(ask, () => wanted, [1, 1])).rejects.toThrow('no');
      expect(asked).toBe(times);
    }
  });
});
