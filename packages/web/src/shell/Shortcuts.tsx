/** All keyboard shortcuts, by where they work. */
import { Dialog } from '../ui/Dialog.tsx';
import { PLACES } from '../lib/places.ts';

const COMPOSER = [
  ['Tab', 'to the next part of the sentence you can change'],
  ['Enter', 'opens the part; Escape closes it'],
  ['← →', 'on the threshold handle: lower or higher by one step'],
  ['Alt ↑ ↓', 'on a condition’s grip: moves it up or down'],
  ['Alt → ←', 'on a grip: into a group with the condition above, or out of its group'],
  ['Ctrl D, Delete', 'on a grip: copies or removes the condition'],
  ['Ctrl Z, Ctrl Shift Z', 'undo and redo in a rule'],
] as const;

export function Shortcuts(props: { readonly open: boolean; readonly onClose: () => void; readonly demo: boolean }) {
  const row = (keys: string, words: string) => (
    <div key={`${keys} ${words}`} className="contents">
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
            {row(`1 … ${PLACES.length}`, PLACES.map((p) => p.name).join(', '))}
            {row('Ctrl K', 'find a student, a rule, a wording, an item or an action')}
            {row('?', 'this list')}
          </dl>
        </section>
        <section>
          <h3 className="mb-2 font-bold">In a rule</h3>
          <dl className="grid grid-cols-[160px_1fr] gap-x-4 gap-y-1.5">{COMPOSER.map(([k, w]) => row(k, w))}</dl>
        </section>
        <section>
          <h3 className="mb-2 font-bold">In a text</h3>
          <dl className="grid grid-cols-[160px_1fr] gap-x-4 gap-y-1.5">
            {row('← →', 'through the letters, and onto a field, a link or a picture')}
            {row('Enter', 'opens the field, link or picture you are on')}
          </dl>
        </section>
        <section>
          <h3 className="mb-2 font-bold">In Students</h3>
          <dl className="grid grid-cols-[160px_1fr] gap-x-4 gap-y-1.5">
            {row('← →', 'on the end of a header’s brush: wider or narrower')}
            {row('Delete', 'on the end of a brush: clears it')}
            {row('Shift Enter', 'on a header: sorts by this column as well')}
            {row('← → ↑ ↓', 'in the gradebook: to another cell; Page, Home and End jump')}
            {row('Enter', 'in the gradebook: opens the item or the student')}
          </dl>
        </section>
        <section>
          <h3 className="mb-2 font-bold">In the Tray</h3>
          <dl className="grid grid-cols-[160px_1fr] gap-x-4 gap-y-1.5">
            {row('↑ ↓', 'to the nudge above or below')}
            {row('S', 'send this nudge, or all that are chosen')}
            {row('D', 'dismiss, with a reason')}
            {row('L', 'decide later')}
            {row('E', 'change the text')}
            {row('X', 'choose this nudge, to decide on several at once')}
          </dl>
        </section>
        <section>
          <h3 className="mb-2 font-bold">In the list of rules</h3>
          <dl className="grid grid-cols-[160px_1fr] gap-x-4 gap-y-1.5">
            {row('Space', 'on a rule’s grip: picks it up; arrows move it, Space drops it')}
          </dl>
        </section>
        <section>
          <h3 className="mb-2 font-bold">On the term strip</h3>
          <dl className="grid grid-cols-[160px_1fr] gap-x-4 gap-y-1.5">
            {row('← →  ↑ ↓', 'one day or one week back or ahead')}
            {row('Enter', 'opens the Send log for that day; in Students, shows the students as of it')}
          </dl>
        </section>
      </div>
    </Dialog>
  );
}
