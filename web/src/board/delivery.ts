import type { Delivery } from '../api/client';

/** One receiver a line: an address, and after an equals sign the member whose part it gets. */
export const asLines = (delivery: Delivery) =>
  (delivery.to ?? []).map((one) => (one.member ? `${one.address} = ${one.member}` : one.address)).join('\n');

export const fromLines = (text: string): NonNullable<Delivery['to']> =>
  text
    .split('\n')
    .map((line) => line.split('='))
    .map(([address = '', ...member]) => ({
      address: address.trim(),
      member: member.join('=').trim() || null,
    }))
    .filter((one) => one.address !== '');
