/** How the Mailroom's mail server behaves: as it should, slowly, or not at all; and which mailboxes refuse mail. */
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { z } from 'zod';
import { MAILROOM_MODES, type MailroomMode } from '@zest-bell/core/exchange';

const stateSchema = z.object({ mode: z.enum(MAILROOM_MODES), refusing: z.array(z.string()) });
type SwitchState = z.infer<typeof stateSchema>;

export class Switches {
  private readonly file: string;
  private state: SwitchState = { mode: 'open', refusing: [] };

  constructor(file: string) {
    this.file = file;
    if (existsSync(file)) this.state = stateSchema.parse(JSON.parse(readFileSync(file, 'utf8')));
  }

  get mode(): MailroomMode {
    return this.state.mode;
  }

  setMode(mode: MailroomMode): void {
    this.write({ ...this.state, mode });
  }

  refuses(address: string): boolean {
    return this.state.refusing.includes(address.toLowerCase());
  }

  setRefusing(address: string, refusing: boolean): void {
    const others = this.state.refusing.filter((a) => a !== address.toLowerCase());
    this.write({ ...this.state, refusing: refusing ? [...others, address.toLowerCase()] : others });
  }

  private write(state: SwitchState): void {
    this.state = state;
    writeFileSync(this.file, JSON.stringify(state));
  }
}
