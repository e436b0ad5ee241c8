/** How a log stores what somebody did: the kind of act and its item in one number. Only this file knows the layout. */
import { EVENT_KINDS, type EventKind } from './event.ts';

const KIND_BITS = 4;
const KIND_MASK = (1 << KIND_BITS) - 1;

type K = EventKind;
/** As many kinds as fit into the bits: a seventeenth does not compile. */
type KindsThatFit = readonly [K?, K?, K?, K?, K?, K?, K?, K?, K?, K?, K?, K?, K?, K?, K?, K?];
const kinds: KindsThatFit = EVENT_KINDS;

/** `item` is the item's key in its history; −1 for none. */
export const actCode = (kind: EventKind, item: number): number => kinds.indexOf(kind) | ((item + 1) << KIND_BITS);

export const kindOfCode = (code: number): EventKind => EVENT_KINDS[code & KIND_MASK]!;

/** The place of the kind in `EVENT_KINDS`. */
export const kindIndexOf = (code: number): number => code & KIND_MASK;

/** The kind as a bit, to be compared with the masks of `event.ts`. */
export const kindBitOf = (code: number): number => 1 << (code & KIND_MASK);

/** The item's key; −1 for none. */
export const itemOfCode = (code: number): number => (code >> KIND_BITS) - 1;
