/** What may stand at a place of a text: titles and words. */
import { SPOKEN_KINDS, type SpokenKind } from '../course/spokenName.ts';
import type { Source } from './parsers.ts';
import { wanted } from './vocabulary.ts';

const KIND_OF = new Map(SPOKEN_KINDS.map((kind) => [wanted(kind), kind]));

/** What may stand at a piece: titles first, then words. */
export function offers({ wanted: looked, vocabulary }: Source, at: number): readonly string[] {
  const said = [...(looked.get(at) ?? [])];
  const kinds = said
    .flatMap((w): SpokenKind[] => {
      const kind = KIND_OF.get(w);
      return kind ? [kind] : [];
    })
    .sort((a, b) => SPOKEN_KINDS.indexOf(a) - SPOKEN_KINDS.indexOf(b));
  const plain = said.filter((w) => /^[\p{L}]/u.test(w));
  const titles = (of: (kind: SpokenKind) => boolean) => kinds.filter(of).flatMap((kind) => vocabulary.titles(kind));
  // A named score may stand wherever a number may.
  return [...titles((kind) => kind !== 'mark'), ...plain, ...titles((kind) => kind === 'mark')];
}
