/** How often a student hears from a rule, who else does, and how much its messages matter, as people type it ([Y5]). */
import type { RecipientSpec, RepeatLimit, RuleWeight } from '../rules/rule.ts';
import { ROLES } from '../course/person.ts';
import { DAY, type Instant } from '../time/instant.ts';
import { dayNumberOf } from '../time/calendar.ts';
import { clock, date } from './dates.ts';
import { either, list, map, optional, reading, then, word, words, type Parser } from './parsers.ts';
import { count, duration } from './quantities.ts';
import { name } from './vocabulary.ts';

type Limits = Partial<RepeatLimit>;

const often: Parser<number> = either(
  map(word('once'), () => 1),
  map(word('twice'), () => 2),
  then(count, word('time', 'times'), (n) => n),
);
const atMost = either(words('at most'), words('no|not more than'));
const times: Parser<number> = then(optional(either(atMost, words('only'), words('up to'))), often, (_, n) => n);
const eachTime = either(words('each|every|per time'), words('per|each absence'));
const timesEach: Parser<number> = then(times, eachTime, (n) => n);
const thisTerm = either(words('this term'), words('per|a|each term'), words('in term'));
const apart = then(duration, words('apart'), (gap) => gap);
const every = either(
  map(words('a|per|each|every week'), () => ({ days: 7, hours: 0 })),
  then(word('every', 'per'), duration, (_, gap) => gap),
);

/** One limit, or those that belong together. More than one reading where it is not said of what. */
export const limit: Parser<Limits> = either<Limits>(
  map(timesEach, (perSpell) => ({ perSpell })),
  then(
    timesEach,
    then(optional(word(',')), apart, (_, gap) => gap),
    (perSpell, gap) => ({ perSpell, gap }),
  ),
  then(times, thisTerm, (perTerm) => ({ perTerm })),
  map(times, (n) => ({ perSpell: n })),
  map(times, (n) => ({ perTerm: n })),
  then(
    atMost,
    then(optional(word('once')), every, (_, gap) => gap),
    (_, gap) => ({ gap }),
  ),
  map(apart, (gap) => ({ gap })),
  map(words('until they|student reply|replies'), () => ({ untilReply: true as const })),
  map(words('at every check'), () => ({})),
);

const address: Parser<RecipientSpec> = (source, at) => {
  const token = source.tokens[at];
  const isAddress = token?.kind === 'address' || (token?.kind === 'quoted' && token.text.includes('@'));
  return isAddress ? [reading(`address:${token.text}` as const, at + 1)] : [];
};

const contact: Parser<RecipientSpec> = map(name('contact'), (kind) => `contact:${kind}` as const);

const recipient: Parser<RecipientSpec> = either<RecipientSpec>(
  map(word('me', 'instructor', 'instructors'), () => 'instructor'),
  map(word('student', 'students', 'them'), () => 'student'),
  then(word('their'), contact, (_, c) => c),
  address,
);

/** Who gets the message: those who are told, those who get a copy, or those who get it beside the others. */
export interface Told {
  readonly how: 'only' | 'copy' | 'also';
  readonly to: readonly RecipientSpec[];
}

const about = optional(words('about each|all of them'));

export const told: Parser<Told> = either<Told>(
  then(
    then(
      words('tell|alert|notify|email'),
      then(optional(word('only', 'just')), list(recipient, 50), (_, to) => to),
      (_, to) => to,
    ),
    about,
    (to) => ({ how: 'only', to }),
  ),
  then(word('copy', 'cc'), list(recipient, 50), (_, to) => ({ how: 'copy', to })),
  then(
    then(optional(word('also')), word('their'), () => null),
    list(
      then(optional(word('their')), contact, (_, c) => c),
      50,
    ),
    (_, to) => ({ how: 'also', to }),
  ),
);

export const weight: Parser<RuleWeight> = either<RuleWeight>(
  then(
    optional(word('as')),
    then(words('low priority'), optional(word('reminder', 'message')), () => null),
    () => 'light',
  ),
  then(
    optional(word('as')),
    then(words('high priority'), optional(word('reminder', 'message')), () => null),
    () => 'strong',
  ),
);

const moment = then(
  date,
  then(optional(word(',')), optional(then(optional(word('at')), clock, (_, time) => time)), (_, time) => time),
  (day, time) => ({ day, time: time ?? '00:00' }),
);
const beginsAfter = then(words('only where that|it begins|starts after'), moment, (_, said) => said);

/** From when on a spell counts. */
export const spellsFrom: Parser<Instant> = (source, at) => {
  const { zone } = source.course.calendar;
  return map(beginsAfter, ({ day, time }) =>
    zone.toInstant(dayNumberOf(day) * DAY + Date.parse(`1970-01-01T${time}:00Z`)),
  )(source, at);
};

/** How many steps the rule has. */
export const steps: Parser<number> = then(
  word('in'),
  then(count, word('step', 'steps'), (n) => n),
  (_, n) => n,
);

export interface SaidAudience {
  readonly roles: readonly (typeof ROLES)[number][];
  readonly sections: readonly string[];
  readonly except: readonly string[];
}

const role = either(...ROLES.map((r) => map(word(r, `${r}s`), () => r)));
const named = then(word('section', 'sections'), list(name('section'), 500), (_, s) => s);
const sections = then(word('in', 'of', 'from'), named, (_, s) => s);
const except = then(
  optional(word(',')),
  then(words('except|excluding'), list(name('person'), 500), (_, p) => p),
  (_, p) => p,
);
const rest = then(optional(sections), optional(except), (s, e) => ({ sections: s ?? [], except: e ?? [] }));

/** For whom the rule is. */
export const audience: Parser<SaidAudience> = either<SaidAudience>(
  then(list(role, 4), rest, (roles, more) => ({ roles, ...more })),
  then(either(named, sections), optional(except), (s, e) => ({ roles: ['student'], sections: s, except: e ?? [] })),
  map(except, (e) => ({ roles: ['student'], sections: [], except: e })),
);
