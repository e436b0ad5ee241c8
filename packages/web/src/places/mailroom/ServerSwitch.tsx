/** How the Mailroom's mail server behaves, to see what a bad day of it does. */
import { contract } from '@zest-bell/core/contract';
import { useQuery } from '@tanstack/react-query';
import { ask } from '../../lib/api.ts';
import { refreshAll } from '../../lib/queries.ts';

const MODES = { open: 'works', slow: 'is slow', busy: 'defers every message (451)', off: 'is switched off' } as const;
type Mode = keyof typeof MODES;

export function ServerSwitch() {
  const server = useQuery({ queryKey: ['mailroom-server'], queryFn: () => ask(contract.demo.mailServer) });
  return (
    <label className="flex items-center gap-2 text-[13.5px]">
      The mail server
      <select
        className="rounded-md border border-black/30 bg-white/70 px-2 py-1 font-semibold dark:bg-black/30"
        value={server.data?.mode ?? 'open'}
        onChange={(e) =>
          void ask(contract.demo.setMailServer, {}, { body: { mode: e.target.value as Mode } }).then(refreshAll)
        }
      >
        {Object.entries(MODES).map(([mode, words]) => (
          <option key={mode} value={mode}>
            {words}
          </option>
        ))}
      </select>
    </label>
  );
}
