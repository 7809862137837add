import { useEffect, useRef } from 'react';

import { post, type ColumnView, type Figure, type Taken } from '../api/client';
import { plain } from '../definition/same';
import { withNeeds } from './figureFields';
import { numbersFor, retaken, TAKES } from './takes';

const CALM = 250;

interface Following {
  figure: Figure;
  /** The names of the other figures. */
  others: string[];
  columns: ColumnView[];
  change: (figure: Figure) => void;
}

/** A change to a figure with the name that follows from it. The names of what is likely to be chosen next are asked ahead, so
 * that a choice is sent as soon as it is made. */
export function useFollowing({ figure, others, columns, change }: Following): (after: Figure) => void {
  const ahead = useRef(new Map<string, string>());
  const key = `${plain(figure)} ${others.join()}`;
  useEffect(() => {
    const next = 'take' in figure ? likely(figure as Taken, columns) : [];
    ahead.current = new Map();
    if (next.length === 0) return;
    const ask = async () => {
      const names = await post('/sentence/names', { before: figure, after: next, taken: others }).catch(
        () => [],
      );
      if (names.length === next.length)
        ahead.current = new Map(next.map((one, i) => [plain(one) ?? '', names[i] ?? one.name]));
    };
    const asked = setTimeout(() => void ask(), CALM); // once what was chosen before is drawn
    return () => clearTimeout(asked);
    // figure and others are told apart by what they say
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key, columns]);
  return (after) => {
    const name = ahead.current.get(plain(after) ?? '');
    if (name !== undefined) return change({ ...after, name });
    void post('/sentence/names', { before: figure, after: [after], taken: others })
      .then(([found]) => change({ ...after, name: found ?? after.name }))
      .catch(() => change(after));
  };
}

/** The figure with another take, and over another column. */
export function likely(figure: Taken, columns: ColumnView[]): Taken[] {
  if (figure.source) return [];
  const numbers = numbersFor(figure, columns);
  const takes = TAKES.map((take) => withNeeds(retaken(figure, take, numbers[0]), columns));
  const others = figure.take === 'count' ? [] : numbers.map((of) => ({ ...figure, of }));
  return [...takes, ...others].filter((one) => one.take === 'count' || one.of).slice(0, 400);
}
