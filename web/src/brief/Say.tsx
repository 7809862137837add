import './brief.css';
import './say.css';
import '../editors/editors.css';
import '../parts/state.css';

import { useEffect, useState, type KeyboardEvent } from 'react';

import { Link } from 'react-router';

import type { HeardText, Phrase, Report } from '../api/client';
import { FaultNote } from '../parts/Fault';
import { useEscape } from '../parts/useEscape';
import { SayField } from './SayField';
import { useExamples, useHeard, type Tone } from '../definition/sentence';
import { counted } from '../parts/words';

type Offer = HeardText['offers'][number];

const TINTS: Record<Tone, string> = {
  figure: 'var(--ink)',
  tree: 'var(--plum)',
  period: 'var(--petrol)',
  bucket: 'var(--rust)',
  condition: 'var(--rule-strong)',
};

interface Props {
  source: string;
  /** The report as it stands; none where a new one is made. */
  report: Report | undefined;
  /** What stands in the field at first: the whole sentence where that is edited. */
  begin?: string;
  /** Phrases that are offered for what was typed, and how one is taken. */
  phrases?: Phrase[];
  /** Whether these are the phrases of the text before: Enter takes none of them. */
  old?: boolean;
  takePhrase?: (phrase: Phrase) => Promise<void> | void;
  typing?: (text: string) => void;
  take: (report: Report) => void;
  tried?: (report: Report | null) => void;
  /** What Enter does while nothing is typed. */
  empty?: () => void;
  close: () => void;
}

/** A sentence being typed: what its words became, the sentence that the report will be, and what is near to a word that was
 * not understood. Enter takes it once every word is. */
export function Say({
  source,
  report,
  begin = '',
  phrases,
  old = false,
  takePhrase,
  typing,
  take,
  tried,
  empty,
  close,
}: Props) {
  const [text, setText] = useState(begin);
  const [way, setWay] = useState<Offer['way']>(report && !begin ? 'add' : 'replace');
  const [at, setAt] = useState<number | null>(null);
  const [select, setSelect] = useState<[number, number] | null>([begin.length, begin.length]);
  const [caret, setCaret] = useState(-1);
  const [fault, setFault] = useState<Error | null>(null);
  const examples = useExamples(source);
  const answer = useHeard(text, source, report);
  const heard = text.trim() === '' ? undefined : answer.data;
  const settled = !answer.isPlaceholderData && !answer.isFetching;
  const offer = heard?.offers.find((one) => one.way === way) ?? heard?.offers[0];
  const whole = Boolean(offer?.whole && offer.document);
  const unknown = whole
    ? undefined
    : (offer?.unknown.find(({ start, end }) => start <= caret && caret <= end) ?? offer?.unknown[0]);
  const found = phrases ?? [];
  const many = found.length;
  const first = !old && settled && !whole && unknown !== undefined && many > 0;
  const chosen = at ?? (first ? 0 : -1);
  const shown = offer?.document ?? null;
  useEffect(() => {
    if (!tried || !settled) return;
    const waits = setTimeout(() => tried(shown), 150);
    return () => clearTimeout(waits);
  }, [tried, shown, settled]);

  const type = (next: string) => {
    setText(next);
    typing?.(next);
    setAt(null);
    setFault(null);
    setSelect(null);
  };
  const put = (words: string, [from, to]: [number, number]) => {
    type(text.slice(0, from) + words + text.slice(to));
    setSelect([from + words.length, from + words.length]);
  };
  const pick = async (place: number) => {
    const phrase = found[place];
    if (!phrase || !takePhrase) return;
    try {
      await takePhrase(phrase);
    } catch (error) {
      setFault(error as Error);
    }
  };
  const enter = () => {
    if (text.trim() === '' && empty) empty();
    else if (chosen >= 0) void pick(chosen);
    else if (whole && settled && offer?.document) take(offer.document);
    else if (unknown) setSelect([unknown.start, unknown.end]);
  };
  useEscape(close);
  const completion = heard?.completions[0];
  const tab = () => {
    const near = unknown?.near[0];
    if (unknown && near) put(near.text, [unknown.start, unknown.end]);
    else if (completion && completion.toLowerCase() !== lastWord(text).toLowerCase())
      put(completion, [text.length - lastWord(text).length, text.length]);
    else return false;
    return true;
  };
  const keys = (event: KeyboardEvent) => {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (event.key === 'Enter') {
      event.preventDefault(); // else the same key presses the button that has the focus once this is closed
      enter();
    } else if (event.key === 'Tab' && !event.shiftKey && tab()) event.preventDefault();
    else if (step && many > 0) {
      event.preventDefault();
      const next = Math.max(-1, Math.min(many - 1, chosen + step));
      setAt(next);
      document.getElementById(`offer-${next}`)?.scrollIntoView({ block: 'nearest' });
    }
  };
  return (
    <section className="offers say-panel" aria-label="Say what you want">
      <SayField
        text={text}
        heard={settled ? (offer?.heard ?? []) : []}
        placeholder={examples[0] ? `For instance: ${examples[0]}` : 'A figure by a column'}
        select={select}
        change={type}
        keys={keys}
        caret={setCaret}
        active={chosen >= 0 ? `offer-${chosen}` : undefined}
      />
      <div className="say-beneath">
        <div className="say-reading" aria-live="polite">
          {heard && report && !begin && <Ways way={way} choose={setWay} />}
          {offer ? <Reading offer={offer} /> : <Examples examples={examples} take={type} />}
          <FaultNote error={fault ?? answer.error} />
        </div>
        <div className="say-near">
          {unknown && (
            <Near
              unknown={unknown}
              put={(words) => put(words, [unknown.start, unknown.end])}
              drop={() => type(dropped(text, unknown.start, unknown.end))}
            />
          )}
          {many > 0 && (
            <ul id="offers" role="listbox" tabIndex={0} aria-label="Phrases">
              {found.map((phrase, i) => (
                <li
                  key={`${phrase.text}${i}`}
                  id={`offer-${i}`}
                  role="option"
                  aria-selected={i === chosen}
                  className={i === chosen ? 'on' : ''}
                  onClick={() => void pick(i)}
                >
                  <span className="tint" style={{ background: TINTS[phrase.tone as Tone] }} />
                  {phrase.text}
                  <small>{phrase.hint}</small>
                </li>
              ))}
            </ul>
          )}
        </div>
      </div>
      <Hints
        takes={found[chosen]?.text}
        whole={whole}
        tab={unknown?.near[0]?.text ?? (completion !== lastWord(text) ? completion : undefined)}
        escape={report ? 'back to the sentence as it was' : 'close'}
        close={close}
        enter={enter}
      />
    </section>
  );
}

const lastWord = (text: string) => /[^\s,]*$/.exec(text)?.[0] ?? '';
const dropped = (text: string, from: number, to: number) =>
  `${text.slice(0, from).replace(/(\s*\b(and|or|nor)|,)?\s*$/i, '')}${text.slice(to)}`
    .replace(/\s+/g, ' ')
    .trim();

/** Whether what is typed is added to the report, or takes the place of its sentence. */
const Ways = ({ way, choose }: { way: Offer['way']; choose: (way: Offer['way']) => void }) => (
  <div className="say-ways" role="radiogroup" aria-label="What it does">
    {(['add', 'replace'] as const).map((one) => (
      <button
        key={one}
        role="radio"
        aria-checked={way === one}
        className={way === one ? 'on' : ''}
        onClick={() => choose(one)}
      >
        {one === 'add' ? 'Add to the report' : 'Replace the sentence'}
      </button>
    ))}
  </div>
);

/** The sentence that the report will be: what comes shaded, what goes struck through. */
const Reading = ({ offer }: { offer: Offer }) => (
  <>
    <b className="say-title">It will read</b>
    {offer.document ? (
      <p>
        {offer.pieces.map((piece, i) => (
          <span key={i} className={`${piece.tone ? 'phrase' : ''} ${piece.tone} ${piece.state}`}>
            {piece.text}
          </span>
        ))}
      </p>
    ) : (
      <p className="quiet">{offer.why || 'Nothing yet.'}</p>
    )}
  </>
);

const Examples = ({ examples, take }: { examples: string[]; take: (text: string) => void }) => (
  <>
    <b className="say-title">For instance</b>
    {examples.map((example) => (
      <button key={example} className="link say-example" onClick={() => take(example)}>
        {example}
      </button>
    ))}
  </>
);

function Near({
  unknown,
  put,
  drop,
}: {
  unknown: Offer['unknown'][number];
  put: (words: string) => void;
  drop: () => void;
}) {
  return (
    <div className="say-unknown">
      <b>“{unknown.text}” is not understood</b>
      {unknown.near.map((near) => (
        <button key={`${near.text} ${near.what}`} onClick={() => put(near.text)}>
          {near.text}
          <small>
            {near.what}
            {near.records != null && ` · ${counted(near.records, 'record')}`}
          </small>
        </button>
      ))}
      {/^(fiscal|financial)$/i.test(unknown.text) && (
        <Link to="/groupings">no calendar of that name: make one</Link>
      )}
      <button onClick={drop}>leave the word out</button>
    </div>
  );
}

function Hints({
  takes,
  whole,
  tab,
  escape,
  close,
  enter,
}: {
  /** The phrase that Enter takes, where one is chosen. */
  takes: string | undefined;
  whole: boolean;
  tab: string | undefined;
  escape: string;
  close: () => void;
  enter: () => void;
}) {
  return (
    <p className="say-keys">
      {tab && (
        <span>
          <kbd className="kbd">Tab</kbd> take “{tab}”
        </span>
      )}
      <button onClick={enter}>
        <kbd className="kbd">Enter</kbd>{' '}
        {takes ? `take “${takes}”` : whole ? 'take it' : 'after the last word is understood'}
      </button>
      <button onClick={close}>
        <kbd className="kbd">Esc</kbd> {escape}
      </button>
      <span className="say-legend">struck through: goes away · shaded: comes</span>
    </p>
  );
}
