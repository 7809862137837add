import type { components } from '../api/types';

export type Notation = components['schemas']['NotationView'];

export const COMMON: Notation = { decimal: '.', thousands: ',', dates: 'mixed' };

/** The workspace's notation, and the one at hand: an edition's while one is shown, which may be another. */
let own = COMMON;
let atHand = COMMON;

/** Numbers and days are written in the workspace's notation from here on. */
export function writeInOwn(notation: Notation) {
  if (notation === own) return;
  own = notation;
  atHand = notation;
}

/** While a screen is drawn, numbers and days are written as its edition was issued; without one, as the workspace has it.
 * The application says the latter first whenever it is drawn. */
export function writeIn(notation: Notation | undefined) {
  atHand = notation ?? own;
}

export const notation = () => atHand;

/** A number that is written as `1,234.50`, in the notation at hand. */
export function noted(number: string): string {
  const { decimal, thousands } = atHand;
  if (decimal === '.' && thousands === ',') return number;
  return number.replaceAll(/[.,]/g, (mark) => (mark === '.' ? decimal : thousands));
}

/** A plain number such as `1234.5` as it stands in a field that is typed into. */
export const inField = (plain: string) => (atHand.decimal === ',' ? plain.replace('.', ',') : plain);

/** A number that was typed in the notation at hand, without what stands between thousands, its decimal mark a point. */
export function fromField(typed: string): string {
  const bare = typed.trim().replaceAll(/[\s'\u2019]/g, '');
  if (atHand.decimal === '.') return bare.replaceAll(',', '');
  return bare.replaceAll('.', '').replace(',', '.');
}
