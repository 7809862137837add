import { fromField } from './notation';

/** A number as people type it, in plain digits; empty where it is none. */
export function plainNumber(text: string): string {
  const bare = fromField(text).replaceAll(/[£$€]/g, '');
  const minus = /^\(.*\)$/.test(bare) || bare.endsWith('-') || bare.startsWith('-');
  const digits = bare.replaceAll(/[()-]/g, '');
  return /^\d+(\.\d+)?$/.test(digits) ? `${minus ? '-' : ''}${digits}` : '';
}
