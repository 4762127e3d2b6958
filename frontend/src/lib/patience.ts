import { Refusal } from '../api/client';

/** Milliseconds before each further try. */
const WAITS = [400, 800, 1500, 3000, 5000];

/** True where what failed may well go through in a moment: the server is busy, or does not answer just now. */
export function passing(error: unknown): boolean {
  return error instanceof Refusal && [0, 502, 503, 504].includes(error.problem.status);
}

/** What is asked for, asked for again by itself where something failed in passing; then the last refusal is thrown. */
export async function patiently<T>(
  ask: () => Promise<T>,
  wanted: () => boolean = () => true,
  waits: number[] = WAITS,
): Promise<T> {
  for (const wait of waits) {
    try {
      return await ask();
    } catch (error) {
      if (!passing(error) || !wanted()) throw error;
      await new Promise((resolve) => setTimeout(resolve, wait));
    }
  }
  return ask();
}
