import { Dialog } from '../ui/Dialog.tsx';
import { PLACES } from './places.ts';

const COMPOSER = [
  ['Tab', 'to the next changeable part of the sentence'],
  ['Enter', 'opens the part where it stands; Escape closes it'],
  ['← →', 'on the threshold handle: one step less, one more'],
  ['Alt ↑ ↓', 'on a condition’s grip: moves it past its neighbour'],
  ['Alt → ←', 'on a grip: into a group with the one above, and out of it'],
  ['Ctrl D, Delete', 'on a grip: copies the condition, removes it'],
  ['Ctrl Z, Ctrl Shift Z', 'undo and redo in a rule'],
] as const;

export function Shortcuts(props: { readonly open: boolean; readonly onClose: () => void; readonly demo: boolean }) {
  const row = (keys: string, words: string) => (
    <div key={keys} className="contents">
      <dt className="font-num text-[14px] font-semibold">{keys}</dt>
      <dd className="text-ink-2">{words}</dd>
    </div>
  );
  return (
    <Dialog open={props.open} onClose={props.onClose} title="Keyboard shortcuts">
      <div className="grid gap-6 px-6 py-5">
        <section>
          <h3 className="mb-2 font-bold">Anywhere</h3>
          <dl className="grid grid-cols-[160px_1fr] gap-x-4 gap-y-1.5">
            {row('1 … 8', PLACES.map((p) => p.name).join(', '))}
            {row('Ctrl K', 'go to a place, a rule or a course by name')}
            {row('?', 'this page')}
          </dl>
        </section>
        <section>
          <h3 className="mb-2 font-bold">In a rule</h3>
          <dl className="grid grid-cols-[160px_1fr] gap-x-4 gap-y-1.5">{COMPOSER.map(([k, w]) => row(k, w))}</dl>
        </section>
        <section>
          <h3 className="mb-2 font-bold">In the list of rules</h3>
          <dl className="grid grid-cols-[160px_1fr] gap-x-4 gap-y-1.5">
            {row('Space', 'on a rule’s grip: takes it up; arrows move it, Space puts it down')}
          </dl>
        </section>
        <section>
          <h3 className="mb-2 font-bold">On the term strip</h3>
          <dl className="grid grid-cols-[160px_1fr] gap-x-4 gap-y-1.5">
            {row('← →  ↑ ↓', 'a day or a week back and ahead')}
            {row('Enter', 'opens the Send log of that day')}
          </dl>
        </section>
      </div>
    </Dialog>
  );
}
