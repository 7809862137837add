import { expect, test } from 'vitest';

const sheets: Record<string, string> = import.meta.glob('../**/*.css', {
  query: '?raw',
  import: 'default',
  eager: true,
});
const components: Record<string, string> = import.meta.glob('../**/*.tsx', {
  query: '?raw',
  import: 'default',
  eager: true,
});
const THEME = './tokens.css';

/** A path that a component names, as seen from here. */
function seen(component: string, path: string): string {
  const folder = component.split('/').slice(0, -1);
  const { pathname } = new URL([...folder, path].join('/'), 'http://src/theme/');
  return pathname.startsWith('/theme/') ? `.${pathname.slice('/theme'.length)}` : `..${pathname}`;
}

/** The first class of each selector of a style sheet: the blocks that it dresses. */
function blocks(text: string): string[] {
  const plain = text.replaceAll(/\/\*[\s\S]*?\*\//g, '');
  const selectors = [...plain.matchAll(/([^{}]+)\{/g)].map((found) => (found[1] ?? '').trim());
  return selectors
    .filter((selector) => !selector.startsWith('@'))
    .flatMap((selector) => selector.split(','))
    .flatMap((one) => /^[a-z0-9]*\.([a-zA-Z][\w-]*)/.exec(one.trim())?.[1] ?? [])
    .filter((name) => !name.startsWith('Mui'));
}

const owners = new Map<string, Set<string>>();
for (const [sheet, text] of Object.entries(sheets))
  for (const block of blocks(text)) owners.set(block, (owners.get(block) ?? new Set()).add(sheet));

test('a block is dressed by one style sheet', () => {
  expect(owners.size).toBeGreaterThan(200);
  const several = [...owners].filter(([, of]) => of.size > 1).map(([block, of]) => [block, ...of]);
  expect(several).toEqual([]);
});

test('a component brings the style sheets of the blocks that it names', () => {
  const missing = Object.entries(components).flatMap(([component, code]) => {
    const brought = [...code.matchAll(/^import '(\.[^']*\.css)';/gm)].map(([, at]) =>
      seen(component, at ?? ''),
    );
    const named = [...code.matchAll(/className="([^"]*)"/g)].flatMap(([, names]) =>
      (names ?? '').split(/\s+/),
    );
    return named.flatMap((name) => {
      const [owner] = owners.get(name) ?? [];
      return owner && owner !== THEME && !brought.includes(owner)
        ? [`${component}: ${name} of ${owner}`]
        : [];
    });
  });
  expect(missing).toEqual([]);
});

test('every style sheet is brought by a component', () => {
  const all = Object.values(components).join('\n');
  expect(Object.keys(sheets).filter((sheet) => !all.includes(`/${sheet.split('/').pop()}'`))).toEqual([]);
});
