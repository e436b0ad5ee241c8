/** What somebody else changed while one typed: theirs beside one's own, which is in the fields. */
import { fieldWords } from '@zest-bell/core/course';
import type { EditState } from './useEdit.ts';

/** `shown`: fields that tell of it themselves. */
export function Collisions({ edit, shown }: { readonly edit: EditState; readonly shown: readonly string[] }) {
  const found = edit.problems.filter((p) => p.code === 'changedMeanwhile' && !shown.includes(partsOf(p.path).field));
  if (found.length === 0) return null;
  return (
    <div
      role="alert"
      className="grid gap-1 rounded-xl bg-tangerine-soft px-4 py-2.5 text-[14px] text-tangerine-text col-span-full"
    >
      {found.map(({ path, message }) => (
        <p key={path}>
          <b>{labelOf(path)}:</b> {message}.
        </p>
      ))}
    </div>
  );
}

const partsOf = (path: string): { readonly field: string; readonly key: string } => {
  const [, field = path, key = ''] = /^(?:(?:people|items)\[\d+\]\.)?(\w+)\.?(.*)$/.exec(path) ?? [];
  return { field, key };
};

/** An own column by its name, all others by the words of their field. */
function labelOf(path: string): string {
  const { field, key } = partsOf(path);
  const words = fieldWords(field);
  return field === 'fields' ? key : `${words.charAt(0).toUpperCase()}${words.slice(1)}`;
}
