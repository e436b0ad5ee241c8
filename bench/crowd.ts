/** Asks for pages as a crowd does, in a process of its own. */
import { askAs, type Crowd } from './pages.ts';

process.once('message', (crowd) => {
  void askAs(crowd as Crowd).then((statuses) => {
    process.send!(statuses);
    process.disconnect();
  });
});
process.send!('ready');
