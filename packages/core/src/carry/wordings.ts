/** A wording of one course as a wording of another (engine K7): its chips name the other's items, its text is looked through. */
import { freeId } from '../course/freeId.ts';
import { itemDueField, itemLinkField } from '../wording/fields.ts';
import { LIQUID_TAGS } from '../wording/tags.ts';
import type { Variant, Wording } from '../wording/wording.ts';
import { findsIn, withFields, type Finding, type TextFind } from './finds.ts';

/** One text of a wording that says something of the old term. */
export interface FoundText {
  /** `subject`, `text`, `variants[0].text`, `copies[1].subject`, `letter.fileName`, `files[0].name`. */
  readonly path: string;
  readonly finds: readonly TextFind[];
}

export interface CarriedWording {
  /** The wording's id in the source. */
  readonly from: string;
  readonly wording: Wording;
  /** The target has it already, word for word: nothing comes along. */
  readonly isThere: boolean;
  /** In the texts as they come along, chips renamed. */
  readonly found: readonly FoundText[];
}

/** In the source's order. An id that something else has in the target gets “-2”, “-3” … behind it. */
export function carryWordings(
  source: readonly Wording[],
  target: readonly Wording[],
  finding: Finding,
): CarriedWording[] {
  const there = new Map(target.map((w) => [w.id, w]));
  const taken = new Set(there.keys());
  return source.map((own) => {
    const renamed = inNamesThere(own, finding.items);
    const same = there.get(own.id);
    if (same && contentOf(same) === contentOf(renamed))
      return { from: own.id, wording: same, isThere: true, found: [] };
    const id = freeId(own.id, (other) => taken.has(other));
    taken.add(id);
    return { from: own.id, wording: { ...renamed, id }, isThere: false, found: foundIn(renamed, finding) };
  });
}

/** The wording with what was found in its texts written as chips, where there is one; but for the texts at the paths in `kept`. */
export function withChips(
  wording: Wording,
  found: readonly FoundText[],
  kept: ReadonlySet<string> = new Set(),
): Wording {
  const finds = new Map(found.filter((f) => !kept.has(f.path)).map((f) => [f.path, f.finds]));
  return eachText(wording, (text, path) => withFields(text, finds.get(path) ?? []));
}

/** The name of a file is no template. */
const takesChips = (path: string): boolean => !path.startsWith('files');

/** What a reader gets: texts and files, whatever it is called. */
const contentOf = ({ subject, text, variants = [], copies = [], files = [], letter = null }: Wording): string =>
  JSON.stringify([subject, text, variants, copies, files.map((f) => f.id), letter]);

const NAMED = /\b(link|due)\[(?:"([^"\\]*)"|'([^'\\]*)')\]/g;

/** Chips that name an item name its match; one without a match stays, and the wording says so when its rule is turned on. */
function inNamesThere(wording: Wording, items: Finding['items']): Wording {
  const field = { link: itemLinkField, due: itemDueField };
  return eachText(wording, (text, path) =>
    takesChips(path)
      ? text.replace(LIQUID_TAGS, (tag) =>
          tag.replace(NAMED, (written, scope: 'link' | 'due', double?: string, single?: string) => {
            const match = items.get(double ?? single ?? '') ?? null;
            return match === null ? written : field[scope](match);
          }),
        )
      : text,
  );
}

function foundIn(wording: Wording, finding: Finding): FoundText[] {
  const found: FoundText[] = [];
  eachText(wording, (text, path) => {
    const finds = findsIn(text, finding).map((f) => (takesChips(path) ? f : { ...f, field: null }));
    if (finds.length > 0) found.push({ path, finds });
    return text;
  });
  return found;
}

/** The wording with each of its texts changed; the path says which it is. */
export function eachText(wording: Wording, change: (text: string, path: string) => string): Wording {
  const both = <V extends Variant>(variant: V, base: string): V => ({
    ...variant,
    subject: change(variant.subject, `${base}subject`),
    text: change(variant.text, `${base}text`),
  });
  const { variants = [], copies = [], files = [], letter = null } = wording;
  return {
    ...both(wording, ''),
    variants: variants.map((v, i) => both(v, `variants[${i}].`)),
    copies: copies.map((c, i) => both(c, `copies[${i}].`)),
    letter: letter && { ...letter, fileName: change(letter.fileName, 'letter.fileName') },
    files: files.map((f, i) => ({ ...f, name: change(f.name, `files[${i}].name`) })),
  };
}
