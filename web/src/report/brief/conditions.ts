import { quotedName, quotedText, reserved } from '../../parts/sql';

/** How a condition says what a column's value is to be. */
export type Op =
  | 'among'
  | 'not_among'
  | 'contains'
  | 'lacks'
  | 'begins'
  | 'ends'
  | 'is'
  | 'is_not'
  | 'least'
  | 'most'
  | 'more'
  | 'less'
  | 'between'
  | 'last'
  | 'yes'
  | 'no'
  | 'blank'
  | 'filled';

export type Kind = 'text' | 'number' | 'date' | 'yes_no';

/** One comparison: `values` are texts, numbers or ISO dates as the operator needs; of `last` a count and a unit. */
export interface Clause {
  column: string;
  op: Op;
  values: string[];
}

/** Clauses of which all, or any, are to hold. */
export interface Condition {
  any: boolean;
  clauses: Clause[];
}

const NAME = '"(?:[^"]|"")+"|[A-Za-z_][A-Za-z0-9_]*';
const TEXT = "'(?:[^']|'')*'";
const NUMBER = '-?[0-9]+(?:\\.[0-9]+)?';
const DATE = "DATE '[0-9]{4}-[0-9]{2}-[0-9]{2}'";
const VALUE = `${TEXT}|${NUMBER}|${DATE}`;

const bareName = (name: string) => (name.startsWith('"') ? name.slice(1, -1).replaceAll('""', '"') : name);
const bare = (value: string) =>
  value.startsWith("'")
    ? value.slice(1, -1).replaceAll("''", "'")
    : value.startsWith('DATE')
      ? value.slice(6, -1)
      : value;

/** The operators that a kind of column can be asked by, the commonest first. */
export const OPS: Record<Kind, [Op, string][]> = {
  text: [
    ['among', 'is'],
    ['not_among', 'is not'],
    ['contains', 'contains'],
    ['lacks', 'does not contain'],
    ['begins', 'begins with'],
    ['ends', 'ends with'],
    ['blank', 'is blank'],
    ['filled', 'is not blank'],
  ],
  number: [
    ['least', 'is at least'],
    ['most', 'is at most'],
    ['between', 'is between'],
    ['is', 'is'],
    ['is_not', 'is not'],
    ['more', 'is over'],
    ['less', 'is under'],
    ['blank', 'is blank'],
    ['filled', 'is not blank'],
  ],
  date: [
    ['between', 'is between'],
    ['last', 'is in the last'],
    ['least', 'is on or after'],
    ['most', 'is on or before'],
    ['is', 'is on'],
    ['blank', 'is blank'],
    ['filled', 'is not blank'],
  ],
  yes_no: [
    ['yes', 'is yes'],
    ['no', 'is no'],
    ['blank', 'is blank'],
  ],
};

/** How many values an operator needs. */
export const needs = (op: Op): number =>
  op === 'between' || op === 'last' ? 2 : ['blank', 'filled', 'yes', 'no'].includes(op) ? 0 : 1;

/** Whether a clause says all that it must. */
export const isWhole = ({ column, op, values }: Clause): boolean =>
  column !== '' && (op === 'among' || op === 'not_among' ? values.length > 0 : filled(op, values));

const filled = (op: Op, values: string[]) =>
  values.length >= needs(op) && values.slice(0, needs(op)).every((value) => value.trim() !== '');

const SIGNS: Partial<Record<Op, string>> = {
  is: '=',
  is_not: '<>',
  least: '>=',
  most: '<=',
  more: '>',
  less: '<',
};
const LIKES: Partial<Record<Op, (text: string) => string>> = {
  contains: (text) => `%${text}%`,
  lacks: (text) => `%${text}%`,
  begins: (text) => `${text}%`,
  ends: (text) => `%${text}`,
};

function written(value: string, kind: Kind): string {
  if (kind === 'number') return value.trim();
  return kind === 'date' ? `DATE '${value.trim()}'` : quotedText(value);
}

/** A clause as SQL. */
export function clauseSql({ column, op, values }: Clause, kind: Kind): string {
  const name = quotedName(column);
  const [first = '', second = ''] = values;
  const like = LIKES[op];
  if (like) {
    const special = /[%_\\]/.test(first);
    const text = special ? first.replaceAll(/([%_\\])/g, '\\$1') : first;
    const found = `${name} ${op === 'lacks' ? 'NOT LIKE' : 'LIKE'} ${quotedText(like(text))}`;
    return special ? `${found} ESCAPE '\\'` : found;
  }
  switch (op) {
    case 'among':
    case 'not_among':
      return amongSql(name, op === 'not_among', values);
    case 'between':
      return `${name} BETWEEN ${written(first, kind)} AND ${written(second, kind)}`;
    case 'last':
      return `${name} > AS_OF - INTERVAL '${first.trim()}' ${second.toUpperCase()} AND ${name} < AS_OF + INTERVAL '1' DAY`;
    case 'yes':
    case 'no':
      return `${name} = ${op === 'yes' ? 'TRUE' : 'FALSE'}`;
    case 'blank':
    case 'filled':
      return `${name} IS ${op === 'filled' ? 'NOT ' : ''}NULL`;
    default:
      return `${name} ${SIGNS[op]} ${written(first, kind)}`;
  }
}

/** Values picked from a list; '' among them stands for a blank. What is none of them may be blank, unless that was picked. */
function amongSql(name: string, not: boolean, values: string[]): string {
  const there = values.filter((value) => value !== '');
  const blank = values.includes('');
  const none = `${name} IS ${not ? 'NOT ' : ''}NULL`;
  if (there.length === 0) return none;
  const said =
    there.length === 1
      ? `${name} ${not ? '<>' : '='} ${quotedText(there[0] ?? '')}`
      : `${name} ${not ? 'NOT IN' : 'IN'} (${there.map(quotedText).join(', ')})`;
  return blank !== not ? `(${said} OR ${name} IS NULL)` : said;
}

/** A condition as SQL; `kinds` says what each column is. */
export function conditionSql(condition: Condition, kinds: (column: string) => Kind): string {
  const parts = condition.clauses.map((clause) => clauseSql(clause, kinds(clause.column)));
  if (parts.length === 1) return parts[0] ?? '';
  const apart = condition.any
    ? parts.map((part) => (/ AND /.test(part) && !/ BETWEEN /.test(part) ? `(${part})` : part))
    : parts;
  return apart.join(condition.any ? ' OR ' : ' AND ');
}

const SIMPLE: [RegExp, (found: string[]) => Clause][] = [
  [
    new RegExp(`^(${NAME}) (=|<>|>=|<=|>|<) (${VALUE})$`, 'i'),
    ([name = '', sign = '', value = '']) => {
      const text = value.startsWith("'");
      const op = text && sign === '=' ? 'among' : text && sign === '<>' ? 'is_not' : opOf(sign);
      return { column: bareName(name), op, values: [bare(value)] };
    },
  ],
  [
    new RegExp(`^(${NAME}) (NOT )?IN \\((${TEXT}(?:, ?${TEXT})*)\\)$`, 'i'),
    ([name = '', not, list = '']) => ({
      column: bareName(name),
      op: not ? 'not_among' : 'among',
      values: [...[...list.matchAll(new RegExp(TEXT, 'g'))].map((m) => bare(m[0])), ...(not ? [''] : [])],
    }),
  ],
  [
    new RegExp(
      `^\\((${NAME}) (=|<>|IN|NOT IN) (\\(?${TEXT}(?:, ?${TEXT})*\\)?) OR (${NAME}) IS NULL\\)$`,
      'i',
    ),
    ([name = '', sign = '', list = '', again = '']) => {
      const not = sign === '<>' || /not/i.test(sign);
      const values = [...list.matchAll(new RegExp(TEXT, 'g'))].map((m) => bare(m[0]));
      if (bareName(name) !== bareName(again)) throw new Error('two columns');
      return {
        column: bareName(name),
        op: not ? 'not_among' : 'among',
        values: not ? values : [...values, ''],
      };
    },
  ],
  [
    new RegExp(`^(${NAME}) (NOT )?LIKE (${TEXT})( ESCAPE '\\\\')?$`, 'i'),
    ([name = '', not, pattern = '', escape]) =>
      likeOf(bareName(name), Boolean(not), bare(pattern), Boolean(escape)),
  ],
  [
    new RegExp(`^(${NAME}) BETWEEN (${NUMBER}|${DATE}) AND (${NUMBER}|${DATE})$`, 'i'),
    ([name = '', low = '', high = '']) => ({
      column: bareName(name),
      op: 'between',
      values: [bare(low), bare(high)],
    }),
  ],
  [
    new RegExp(
      `^(${NAME}) > AS_OF - INTERVAL '([0-9]+)' (DAY|MONTH|YEAR) AND (${NAME}) < AS_OF \\+ INTERVAL '1' DAY$`,
      'i',
    ),
    ([name = '', count = '', unit = '']) => ({
      column: bareName(name),
      op: 'last',
      values: [count, unit.toLowerCase()],
    }),
  ],
  [
    new RegExp(`^(${NAME}) IS (NOT )?NULL$`, 'i'),
    ([name = '', not]) => ({ column: bareName(name), op: not ? 'filled' : 'blank', values: [] }),
  ],
  [
    new RegExp(`^(${NAME}) = (TRUE|FALSE)$`, 'i'),
    ([name = '', value = '']) => ({
      column: bareName(name),
      op: value.toUpperCase() === 'TRUE' ? 'yes' : 'no',
      values: [],
    }),
  ],
];

const opOf = (sign: string): Op =>
  (Object.entries(SIGNS).find(([, s]) => s === sign)?.[0] as Op | undefined) ?? 'is';

function likeOf(column: string, not: boolean, pattern: string, escaped: boolean): Clause {
  const open = escaped ? /(?<!\\)(?:\\\\)*%$/.test(pattern) : pattern.endsWith('%');
  const inner = pattern.replace(/^%/, '').slice(0, open ? -1 : undefined);
  const plain = escaped ? inner.replaceAll(/\\([%_\\])/g, '$1') : inner;
  if (!escaped && /[%_]/.test(inner)) throw new Error('a pattern');
  const [from, to] = [pattern.startsWith('%'), open];
  const op: Op | null =
    from && to ? (not ? 'lacks' : 'contains') : not ? null : to ? 'begins' : from ? 'ends' : null;
  if (!op) throw new Error('a pattern');
  return { column, op, values: [plain] };
}

function readClause(text: string): Clause | null {
  const said = text.trim().replaceAll(/\s+/g, ' ');
  for (const [pattern, made] of SIMPLE) {
    const found = pattern.exec(said);
    if (!found) continue;
    try {
      const clause = made(found.slice(1));
      return isReserved(clause.column, said) ? null : clause;
    } catch {
      return null;
    }
  }
  return null;
}

const isReserved = (column: string, said: string) => !said.includes('"') && reserved(column.toUpperCase());

/** Parts of a condition between top-level ANDs or ORs, texts and parentheses left whole; null where both stand. */
function split(text: string): { any: boolean; parts: string[] } | null {
  const parts: string[] = [];
  let joined: string | null = null;
  let depth = 0;
  let from = 0;
  let between = false;
  const tokens = /'(?:[^']|'')*'|"(?:[^"]|"")*"|\(|\)|\b(AND|OR|BETWEEN)\b/gi;
  for (let found = tokens.exec(text); found; found = tokens.exec(text)) {
    const [token, word] = found;
    if (token === '(') depth += 1;
    else if (token === ')') depth -= 1;
    else if (word && depth === 0) {
      const upper = word.toUpperCase();
      if (upper === 'BETWEEN') between = true;
      else if (upper === 'AND' && between) between = false;
      else if (joined && joined !== upper) return null;
      else {
        joined = upper;
        parts.push(text.slice(from, found.index));
        from = found.index + token.length;
      }
    }
  }
  parts.push(text.slice(from));
  return { any: joined === 'OR', parts };
}

/** A condition read back as clauses; null where it is a formula of another form. */
export function readCondition(text: string): Condition | null {
  const whole = readClause(text);
  if (whole) return { any: false, clauses: [whole] };
  const found = split(text.trim());
  if (!found || found.parts.length < 2) return null;
  const parts = rejoined(found.parts, found.any);
  const clauses = parts.map((part) => readClause(part) ?? readClause(unwrapped(part)));
  return clauses.every((clause): clause is Clause => clause !== null) ? { any: found.any, clauses } : null;
}

const unwrapped = (part: string) => part.trim().replace(/^\((.*)\)$/s, '$1');

/** `in the last n months` is itself two comparisons joined by AND. */
function rejoined(parts: string[], any: boolean): string[] {
  if (any) return parts;
  const whole: string[] = [];
  for (let i = 0; i < parts.length; i += 1) {
    const pair = `${parts[i]?.trim()} AND ${parts[i + 1]?.trim()}`;
    if (i + 1 < parts.length && readClause(pair)?.op === 'last') {
      whole.push(pair);
      i += 1;
    } else whole.push(parts[i] ?? '');
  }
  return whole;
}
