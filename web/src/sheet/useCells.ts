import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useMemo, useSyncExternalStore } from 'react';

import { Fault, post, type LinesView, type SheetView } from '../api/client';
import type { SheetPlace } from '../api/paths';

const BLOCK = 60;
const COLUMNS = 24;

/** The cells of one sheet that were brought here: by line and place among the columns of figures. Cells of another sheet
 * are never among them. */
export class CellStore {
  version = 0;
  private readonly texts = new Map<number, (string | undefined)[]>();
  private readonly cut = new Map<number, Set<number>>();
  private readonly asked = new Set<string>();
  private readonly listeners = new Set<() => void>();
  readonly sheet: SheetView;
  readonly base: SheetPlace;
  private readonly gone: () => void;

  constructor(base: SheetPlace, sheet: SheetView, gone: () => void) {
    this.base = base;
    this.sheet = sheet;
    this.gone = gone;
    this.put(sheet);
  }

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** The texts of a line, by column; undefined if not loaded yet. */
  line(line: number): (string | undefined)[] | undefined {
    return this.texts.get(line);
  }

  isCut(line: number, place: number): boolean {
    return this.cut.get(line)?.has(place) ?? false;
  }

  private put({ first, shown, cells, cut }: Pick<LinesView, 'first' | 'shown' | 'cells' | 'cut'>) {
    const from = first * this.sheet.figures.length;
    const many = shown * this.sheet.figures.length;
    for (const [at, texts] of Object.entries(cells)) {
      const line = Number(at);
      const row = [...(this.texts.get(line) ?? [])];
      for (let i = 0; i < many; i += 1) row[from + i] = texts[i] ?? '';
      this.texts.set(line, row);
    }
    for (const [at, places] of Object.entries(cut)) {
      const line = Number(at);
      const marked = this.cut.get(line) ?? new Set();
      places.forEach((place) => marked.add(from + place));
      this.cut.set(line, marked);
    }
  }

  /** Loads the missing cells of lines in some columns, a block of columns at a time. */
  want(lines: number[], firstColumn: number, lastColumn: number) {
    for (let block = Math.floor(firstColumn / COLUMNS); block * COLUMNS < lastColumn; block += 1) {
      const place = block * COLUMNS * this.sheet.figures.length;
      const missing = lines.filter(
        (line) => this.texts.get(line)?.[place] === undefined && !this.asked.has(`${line} ${block}`),
      );
      for (let i = 0; i < missing.length; i += BLOCK) this.fetch(missing.slice(i, i + BLOCK), block);
    }
  }

  private fetch(lines: number[], block: number) {
    lines.forEach((line) => this.asked.add(`${line} ${block}`));
    const columns = Math.min(COLUMNS, this.sheet.columns.length - block * COLUMNS);
    post(`${this.base}/sheets/${this.sheet.key}/lines`, {
      lines,
      first: block * COLUMNS,
      columns,
    })
      .then((found) => {
        this.put(found);
        this.version += 1;
        this.listeners.forEach((listener) => listener());
      })
      .catch((fault: Error) => {
        lines.forEach((line) => this.asked.delete(`${line} ${block}`));
        if (fault instanceof Fault && fault.status === 409) this.gone();
      });
  }
}

/** The cells of a sheet: those that came with it, others asked for as they are scrolled to. `base` is where the sheet is
 * answered for: /reports/7, /editions/3, or what a link opens. Where the server has this sheet no more, it is asked for
 * again. */
export function useCells(base: SheetPlace, sheet: SheetView): CellStore {
  const queries = useQueryClient();
  const store = useMemo(
    () => new CellStore(base, sheet, () => void queries.invalidateQueries({ queryKey: ['sheet'] })),
    [base, sheet, queries],
  );
  useSyncExternalStore(store.subscribe, () => store.version);
  return store;
}

/** Loads what is in view once it is rendered. */
export function useWanted(store: CellStore, lines: number[], first: number, last: number) {
  const key = `${lines[0]} ${lines[lines.length - 1]} ${lines.length} ${first} ${last}`;
  useEffect(() => {
    store.want(lines, first, last);
    // the lines are told apart by their ends and their number
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [store, key]);
}
