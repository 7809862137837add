const KEY = 'kalendor.source';

/** Note the source that is at hand: the one last looked at, or that of the report last opened. */
export function noteSource(name: string) {
  try {
    sessionStorage.setItem(KEY, name);
  } catch {
    // where nothing is kept, the first source is at hand
  }
}

/** The source at hand, among those that there are; else the first of them. */
export function sourceAtHand(names: string[]): string {
  const told = sessionStorage.getItem(KEY) ?? '';
  return names.includes(told) ? told : (names[0] ?? '');
}
