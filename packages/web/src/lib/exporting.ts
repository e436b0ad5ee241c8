/** Files that the server makes: begun, watched while they are made, and saved once they are done. */
import { toast } from 'sonner';
import { contract, type BodyGiven } from '@zest-bell/core/contract';
import { numberWords } from '@zest-bell/core/time';
import { ask, errorWords, linkTo } from './api.ts';
import { save } from '../ui/save.ts';

export type ExportOrder = BodyGiven<typeof contract.exports.start>;

/** How often it is asked how far a file is, in ms. */
const EVERY = 400;

/** A note says how far it is, and lets somebody stop it. */
export async function exportFile(course: number, order: ExportOrder): Promise<void> {
  let note: string | number | undefined;
  try {
    let state = await ask(contract.exports.start, { course }, { body: order });
    const path = { course, export: state.id };
    let stopped = false;
    const stop = () => {
      stopped = true;
      void ask(contract.exports.stop, path).catch(() => undefined);
    };
    while (state.state === 'waiting' || state.state === 'running') {
      await new Promise((later) => setTimeout(later, EVERY));
      if (stopped) return;
      state = await ask(contract.exports.state, path);
      if (state.state === 'done') break;
      const far = state.total === 0 ? '' : `${numberWords(state.done)} of ${numberWords(state.total)}`;
      note = toast.loading(`Making ${state.name}`, {
        ...(note === undefined ? {} : { id: note }),
        description: state.state === 'waiting' ? 'Waiting for another file' : far,
        action: { label: 'Stop', onClick: stop },
      });
    }
    if (note !== undefined) toast.dismiss(note);
    if (state.state === 'failed') return void toast.error(state.trouble ?? 'The file could not be made.');
    save(state.name, linkTo(contract.exports.file, path));
  } catch (error) {
    if (note !== undefined) toast.dismiss(note);
    toast.error(errorWords(error));
  }
}
