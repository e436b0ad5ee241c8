/**
 * Events that a file brings, as columns of numbers: millions of them take a few bytes each, and whether one is there already is found
 * at once. They can be handed to another thread as they are.
 */
import { actCode, itemOfCode, kindOfCode } from '../../activity/actCode.ts';
import type { ActivityEvent } from '../../activity/event.ts';
import { Keys } from '../../activity/keys.ts';
import type { Instant } from '../../time/instant.ts';

/** `id` is the sender's own, where there is one; others get one from their content. */
export interface EventFromFile extends ActivityEvent {
  readonly id?: string;
}

/** As one thread gives them to another. */
export interface EventColumns {
  readonly people: readonly string[];
  readonly items: readonly string[];
  readonly who: Int32Array<ArrayBuffer>;
  /** Codes of `actCode.ts`. */
  readonly codes: Int32Array<ArrayBuffer>;
  readonly times: Float64Array<ArrayBuffer>;
  /** The senders' own ids, by the place of the event. */
  readonly ids: ReadonlyMap<number, string>;
}

/** The code of an event that was taken out again. */
const GONE = -1;
const FIRST_SIZE = 64;

export class EventList implements Iterable<EventFromFile> {
  private people = new Keys();
  private items = new Keys();
  private who = new Int32Array(FIRST_SIZE);
  private codes = new Int32Array(FIRST_SIZE);
  private times = new Float64Array(FIRST_SIZE);
  private readonly ids = new Map<number, string>();
  /** Places plus one, by their hash; 0 for none. A power of two of them, of which a fifth is free at least. */
  private slots = new Int32Array(FIRST_SIZE * 2);
  private end = 0;
  private gone = 0;

  get length(): number {
    return this.end - this.gone;
  }

  /** Places that were ever given: those of events taken out are among them. */
  get places(): number {
    return this.end;
  }

  /** The event at a place; null for one that was taken out. */
  at(place: number): EventFromFile | null {
    const code = this.codes[place]!;
    if (code === GONE) return null;
    const item = itemOfCode(code);
    const id = this.ids.get(place);
    return {
      person: this.people.all[this.who[place]!]!,
      kind: kindOfCode(code),
      item: item < 0 ? null : this.items.all[item]!,
      at: this.times[place]!,
      ...(id === undefined ? {} : { id }),
    };
  }

  *[Symbol.iterator](): Generator<EventFromFile> {
    for (let place = 0; place < this.end; place++) {
      const event = this.at(place);
      if (event) yield event;
    }
  }

  has(event: ActivityEvent): boolean {
    return this.placeOf(event) !== null;
  }

  /** False where it is there already. */
  add(event: EventFromFile): boolean {
    const who = this.people.of(event.person);
    const code = this.codeOf(event)!;
    const slot = this.slotOf(who, code, event.at);
    if (this.slots[slot] !== 0) return false;
    if (this.end === this.times.length) this.grow();
    const place = this.end++;
    this.who[place] = who;
    this.codes[place] = code;
    this.times[place] = event.at;
    if (event.id !== undefined) this.ids.set(place, detached(event.id));
    this.slots[this.slotOf(who, code, event.at)] = place + 1;
    return true;
  }

  /** False where it was not there. */
  remove(event: ActivityEvent): boolean {
    const place = this.placeOf(event);
    if (place === null) return false;
    this.codes[place] = GONE;
    this.gone++;
    return true;
  }

  /** Person by person, each in the order in which they were added: what lies together is written and read together. */
  toColumns(): EventColumns {
    const next = new Int32Array(this.people.all.length + 1);
    const stands = (place: number) => this.codes[place] !== GONE;
    for (let place = 0; place < this.end; place++) if (stands(place)) next[this.who[place]! + 1]!++;
    for (let who = 1; who < next.length; who++) next[who]! += next[who - 1]!;
    const [who, codes] = [new Int32Array(this.length), new Int32Array(this.length)];
    const times = new Float64Array(this.length);
    const ids = new Map<number, string>();
    for (let place = 0; place < this.end; place++) {
      if (!stands(place)) continue;
      const to = next[this.who[place]!]!++;
      who[to] = this.who[place]!;
      codes[to] = this.codes[place]!;
      times[to] = this.times[place]!;
      const id = this.ids.get(place);
      if (id !== undefined) ids.set(to, id);
    }
    return { people: this.people.all, items: this.items.all, who, codes, times, ids };
  }

  /** The list that columns were made from; it takes them over, and no more events. */
  static from({ people, items, who, codes, times, ids }: EventColumns): EventList {
    const list = new EventList();
    for (const id of people) list.people.of(id);
    for (const id of items) list.items.of(id);
    Object.assign(list, { who, codes, times, ids, end: times.length });
    return list;
  }

  /** Null for an item that no event has. */
  private codeOf({ kind, item }: ActivityEvent, isKnown = false): number | null {
    const key = item === null ? -1 : isKnown ? this.items.find(item) : this.items.of(item);
    return key === null ? null : actCode(kind, key);
  }

  private placeOf(event: ActivityEvent): number | null {
    const who = this.people.find(event.person);
    const code = this.codeOf(event, true);
    if (who === null || code === null) return null;
    const found = this.slots[this.slotOf(who, code, event.at)]!;
    return found === 0 ? null : found - 1;
  }

  /** The slot of such an event, whether it exists yet or not. */
  private slotOf(who: number, code: number, at: Instant): number {
    const { slots, times, codes } = this;
    const last = slots.length - 1;
    let slot = hashOf(who, code, at) & last;
    for (; slots[slot] !== 0; slot = (slot + 1) & last) {
      const place = slots[slot]! - 1;
      if (times[place] === at && codes[place] === code && this.who[place] === who) break;
    }
    return slot;
  }

  private grow(): void {
    const size = Math.ceil(this.times.length * 1.5);
    this.who = longer(new Int32Array(size), this.who);
    this.codes = longer(new Int32Array(size), this.codes);
    this.times = longer(new Float64Array(size), this.times);
    if (size * 1.25 <= this.slots.length) return;
    this.slots = new Int32Array(this.slots.length * 2);
    for (let place = 0; place < this.end; place++) {
      if (this.codes[place] === GONE) continue;
      this.slots[this.slotOf(this.who[place]!, this.codes[place]!, this.times[place]!)] = place + 1;
    }
  }
}

function longer<T extends Int32Array | Float64Array>(empty: T, from: T): T {
  empty.set(from);
  return empty;
}

/** A part of a text holds on to the whole of it, which may be a piece of a large file. */
const detached = (text: string): string => ` ${text}`.slice(1);

/** Spreads what differs in few bits. */
function hashOf(who: number, code: number, at: Instant): number {
  let hash = Math.imul(who, 0x9e3779b1) ^ Math.imul(code, 0x85ebca6b) ^ Math.imul((at % 0x1_0000_0000) | 0, 0xc2b2ae35);
  hash = Math.imul(hash ^ (hash >>> 15), 0x2c1b3c6d);
  return hash ^ (hash >>> 13);
}
