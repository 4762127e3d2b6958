import { remember, remembered } from './remembered';

const NAME = 'drawings used';
const MOST = 60;

/** The numbers of drawings by when they were opened here, the last first. */
export const used = (): number[] =>
  remembered(NAME)
    .split(' ')
    .map(Number)
    .filter((n) => Number.isInteger(n) && n > 0);

/** Note that a drawing was opened. */
export function opened(id: number) {
  remember(NAME, [id, ...used().filter((n) => n !== id)].slice(0, MOST).join(' '));
}
