/** A number as people type it, in plain digits; empty where it is none. */
export function plainNumber(text: string): string {
  const bare = text.trim().replaceAll(/[\s,'£$€]/g, '');
  const minus = /^\(.*\)$/.test(bare) || bare.endsWith('-') || bare.startsWith('-');
  const digits = bare.replaceAll(/[()-]/g, '');
  return /^\d+(\.\d+)?$/.test(digits) ? `${minus ? '-' : ''}${digits}` : '';
}
