import type { DrawingInfo } from '../api/client';
import { used } from '../lib/lately';
import { remember, remembered } from '../lib/remembered';

export type Order = 'changed' | 'used' | 'number' | 'title';
export const ORDERS: [Order, string][] = [
  ['changed', 'last change'],
  ['used', 'last use'],
  ['number', 'number'],
  ['title', 'title'],
];
const NAME = 'order of drawings';

/** In which order the shelf shows its drawings; kept for the next time. */
class ShelfOrder {
  private chosen = $state<Order>(ORDERS.find(([o]) => o === remembered(NAME))?.[0] ?? 'changed');

  get now() {
    return this.chosen;
  }
  set now(order: Order) {
    this.chosen = order;
    remember(NAME, order);
  }
}
export const order = new ShelfOrder();

/** Numbers as people sort them: WL-9 before WL-10; what has none comes last. */
const byWords = (a: string, b: string) =>
  +!a - +!b || a.localeCompare(b, 'en-GB', { numeric: true, sensitivity: 'base' });

/** Drawings in an order; they come as they were changed, the last first. */
export function inOrder(drawings: DrawingInfo[], by: Order, recent: number[] = used()): DrawingInfo[] {
  if (by === 'changed') return drawings;
  const place = (d: DrawingInfo) => {
    const k = recent.indexOf(d.id);
    return k < 0 ? recent.length : k;
  };
  return [...drawings].sort((a, b) =>
    by === 'used' ? place(a) - place(b) : byWords(a[by], b[by]) || byWords(a.number, b.number) || a.id - b.id,
  );
}
