/** A field in which a rule, or a part of one, is typed as a sentence; what was understood is shown below it. */
import {
  useId,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type KeyboardEvent,
  type ReactNode,
  type RefObject,
} from 'react';
import { quoted, type Course } from '@zest-bell/core/course';
import { completionsOf, say, type SaidRule, type SayingOptions, type SayingProblem } from '@zest-bell/core/saying';
import { Button } from '../../ui/Button.tsx';
import { useSettled } from '../../ui/useSettled.ts';
import { problemsInBrief, problemWords } from './problemWords.ts';
import { rewrite } from './rewrite.ts';

/** Words offered at once. */
const MOST_OFFERED = 8;
/** How long nothing is typed before what was understood is spoken, in ms. */
const SPOKEN_AFTER = 500;

const NO_OPTIONS: SayingOptions = {};

export interface SayingFieldProps {
  readonly course: Course;
  readonly label: string;
  readonly placeholder: string;
  readonly options?: SayingOptions;
  /** Sentences to begin with, shown while nothing is typed. */
  readonly examples?: readonly string[];
  readonly text: string;
  readonly onText: (text: string) => void;
  /** What was understood, with its count. */
  readonly understood: (rule: SaidRule) => ReactNode;
  /** The same for those who hear the page. */
  readonly spoken: (rule: SaidRule) => string;
  /** On the button that takes it. */
  readonly takes: string;
  readonly busy?: boolean;
  readonly onTake: (rule: SaidRule) => void;
}

export function SayingField(props: SayingFieldProps) {
  const { course, text, onText, options = NO_OPTIONS } = props;
  const id = useId();
  const field = useRef<HTMLInputElement>(null);
  const line = useRef<HTMLSpanElement>(null);
  const said = useMemo(() => say(text, course, options), [text, course, options]);
  const isEmpty = text.trim() === '';
  const problems = isEmpty ? [] : said.problems;
  const { offers, isOpen, highlighted, close, highlight } = useOffers(text, course, options);
  const [urgent, setUrgent] = useState('');

  const take = () => {
    if (said.rule) return props.onTake(said.rule);
    const [first] = problems;
    if (!first) return;
    field.current!.focus();
    field.current!.setSelectionRange(first.from, first.to);
    setUrgent(problemsInBrief(problems, text));
  };
  const complete = (offer: string) => {
    const from = /\s$/.test(text) || text === '' ? text.length : text.lastIndexOf(' ') + 1;
    rewrite(field.current!, from, text.length, `${safely(text.slice(0, from), '', offer, course)} `);
  };
  const fix = (problem: SayingProblem, near: string) => {
    const { from, to, code } = problem;
    if (code === 'incomplete')
      return rewrite(field.current!, to, to, ` ${safely(`${text.slice(0, to)} `, '', near, course)}`);
    rewrite(field.current!, from, to, safely(text.slice(0, from), text.slice(to), near, course));
  };
  const press = (e: KeyboardEvent) => {
    if (e.nativeEvent.isComposing) return;
    if (isOpen && (e.key === 'ArrowDown' || e.key === 'ArrowUp')) {
      e.preventDefault();
      highlight(e.key === 'ArrowDown' ? 1 : -1);
    } else if (e.key === 'Escape' && isOpen) {
      e.stopPropagation();
      close();
    } else if (e.key === 'Enter') {
      e.preventDefault();
      const chosen = offers[highlighted];
      if (isOpen && chosen !== undefined) complete(chosen);
      else take();
    }
  };
  const now = said.rule ? props.spoken(said.rule) : isEmpty ? '' : problemsInBrief(problems, text);
  const settled = useSettled(now, SPOKEN_AFTER);
  return (
    <div className="grid min-w-0 gap-2" data-testid="saying">
      <label htmlFor={id} className="text-[14px] font-semibold">
        {props.label}
      </label>
      <div className="relative">
        <Underlined text={text} problems={problems} field={field} line={line} />
        <input
          ref={field}
          id={id}
          role="combobox"
          aria-autocomplete="list"
          aria-expanded={isOpen}
          aria-controls={`${id}-offers`}
          aria-activedescendant={highlighted >= 0 ? `${id}-offer-${highlighted}` : undefined}
          aria-describedby={problems.length > 0 ? `${id}-problems` : undefined}
          aria-invalid={problems.length > 0 ? true : undefined}
          autoCapitalize="none"
          autoCorrect="off"
          autoComplete="off"
          spellCheck={false}
          enterKeyHint="done"
          placeholder={props.placeholder}
          className="field relative w-full bg-transparent! text-[16px] pointer-coarse:min-h-11"
          value={text}
          onChange={(e) => {
            setUrgent('');
            onText(e.target.value);
          }}
          onKeyDown={press}
          onScroll={(e) => scrollWith(line.current, e.currentTarget)}
        />
      </div>
      <ul
        id={`${id}-offers`}
        role="listbox"
        aria-label="Words that may follow"
        className="flex flex-wrap gap-1.5 empty:hidden"
      >
        {isOpen &&
          offers.map((offer, i) => (
            <li
              key={offer}
              id={`${id}-offer-${i}`}
              role="option"
              aria-selected={i === highlighted}
              // The field keeps the focus.
              onMouseDown={(e) => e.preventDefault()}
              onClick={() => complete(offer)}
              className="flex cursor-pointer items-center rounded-lg border border-line px-2 py-0.5 text-[13.5px] hover:border-ink aria-selected:border-ink aria-selected:bg-fog pointer-coarse:min-h-11"
            >
              {offer}
            </li>
          ))}
      </ul>
      {isEmpty && props.examples && (
        <ul aria-label="Examples" className="grid justify-items-start gap-1">
          {props.examples.map((example) => (
            <li key={example}>
              <button
                type="button"
                className="rounded-lg px-2 py-0.5 text-left text-[14px] text-pine underline decoration-dotted underline-offset-4 hover:decoration-solid pointer-coarse:min-h-11"
                onClick={() => rewrite(field.current!, 0, text.length, example)}
              >
                {example}
              </button>
            </li>
          ))}
        </ul>
      )}
      {problems.length > 0 && (
        <ul id={`${id}-problems`} aria-label="Not understood yet" className="grid gap-1.5 text-[14px]">
          {problems.map((problem) => (
            <li key={`${problem.from} ${problem.code}`} className="flex flex-wrap items-center gap-1.5">
              <span>{problemWords(problem, text)}</span>
              {problem.code !== 'refused' &&
                problem.near.map((near) => (
                  <Button key={near} onClick={() => fix(problem, near)}>
                    {near}
                  </Button>
                ))}
            </li>
          ))}
        </ul>
      )}
      {!isEmpty && (
        <div className="flex flex-wrap items-center gap-3">
          {said.rule && (
            <div className="min-w-0 flex-1 basis-64 text-[15px] leading-relaxed">{props.understood(said.rule)}</div>
          )}
          <Button look="main" busy={props.busy === true} onClick={take}>
            {props.takes}
          </Button>
        </div>
      )}
      <p className="sr-only" role="status" aria-live="polite">
        {urgent || settled}
      </p>
    </div>
  );
}

/** The words in quotation marks where they would be read as something else. */
function safely(before: string, after: string, words: string, course: Course): string {
  const isAsked = (said: string) =>
    say(`${before}${said}${after}`, course).problems.some(
      (p) => p.code === 'ambiguous' && p.from < before.length + said.length && p.to > before.length,
    );
  return isAsked(words) && !isAsked(quoted(words)) ? quoted(words) : words;
}

function useOffers(text: string, course: Course, options: SayingOptions) {
  // What was closed, or highlighted, belongs to the text that stood there.
  const [closed, setClosed] = useState<string | null>(null);
  const [chosen, setChosen] = useState<{ readonly text: string; readonly at: number } | null>(null);
  const offers = useMemo(
    () => (text.trim() === '' ? [] : completionsOf(text, course, options, MOST_OFFERED)),
    [text, course, options],
  );
  const isOpen = offers.length > 0 && closed !== text;
  const highlighted = isOpen && chosen?.text === text ? chosen.at : -1;
  return {
    offers,
    isOpen,
    highlighted,
    close: () => setClosed(text),
    highlight: (by: 1 | -1) => {
      const next = highlighted < 0 && by < 0 ? offers.length - 1 : (highlighted + by + offers.length) % offers.length;
      setChosen({ text, at: next });
    },
  };
}

/** What is behind the field shows the same part of the text. */
function scrollWith(line: HTMLElement | null, field: HTMLElement): void {
  if (line) line.scrollLeft = field.scrollLeft;
}

/** The same text behind the field, with a line under what is not understood. */
function Underlined(props: {
  readonly text: string;
  readonly problems: readonly SayingProblem[];
  readonly field: RefObject<HTMLInputElement | null>;
  readonly line: RefObject<HTMLSpanElement | null>;
}) {
  const { text, problems, field, line } = props;
  const marked = problems.filter((p) => p.to > p.from && p.code !== 'refused');
  useLayoutEffect(() => {
    scrollWith(line.current, field.current!);
  });
  if (marked.length === 0) return null;
  return (
    <span
      aria-hidden
      className="pointer-events-none absolute inset-x-0 top-0 overflow-hidden border border-transparent px-2.5 py-1.5 text-[16px] whitespace-pre text-transparent pointer-coarse:leading-[30px]"
      ref={line}
    >
      {piecesOf(text, marked).map(({ from, words, isMarked }) =>
        isMarked ? (
          <span key={from} className="underline decoration-tangerine-text decoration-wavy underline-offset-4">
            {words}
          </span>
        ) : (
          words
        ),
      )}
    </span>
  );
}

/** A text in pieces, those of a problem marked. */
function piecesOf(text: string, marked: readonly SayingProblem[]) {
  const pieces: { readonly from: number; readonly words: string; readonly isMarked: boolean }[] = [];
  let at = 0;
  for (const { from, to } of marked) {
    if (from < at) continue;
    pieces.push({ from: at, words: text.slice(at, from), isMarked: false });
    pieces.push({ from, words: text.slice(from, to), isMarked: true });
    at = to;
  }
  return [...pieces, { from: at, words: text.slice(at), isMarked: false }];
}
