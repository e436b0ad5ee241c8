/** Every letter that arrived, in memory and in a file that is written before the sender hears "accepted". */
import { appendFileSync, existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import type { Instant } from '@zest-bell/core/time';
import type { Letter } from '@zest-bell/core/exchange';

export interface StoredLetter extends Omit<Letter, 'read'> {
  /** Where its bounces go: the sender of the envelope. */
  readonly returnPath?: string;
}

export class Letters {
  private readonly file: string;
  private readonly byAddress = new Map<string, StoredLetter[]>();
  private readonly byId = new Map<string, StoredLetter>();
  private readonly read = new Set<string>();

  constructor(file: string) {
    this.file = file;
    if (!existsSync(file)) return;
    for (const line of readFileSync(file, 'utf8').split('\n')) {
      // A process killed in the middle of a line had not yet accepted that letter.
      if (!line.endsWith('}')) continue;
      const entry = JSON.parse(line) as { letter?: StoredLetter; read?: string };
      if (entry.letter) this.keep(entry.letter);
      if (entry.read) this.read.add(entry.read);
    }
  }

  private keep(letter: StoredLetter): void {
    this.byId.set(letter.id, letter);
    const address = letter.to.toLowerCase();
    const letters = this.byAddress.get(address);
    if (letters) letters.push(letter);
    else this.byAddress.set(address, [letter]);
  }

  add(letter: StoredLetter): void {
    appendFileSync(this.file, `${JSON.stringify({ letter })}\n`);
    this.keep(letter);
  }

  markRead(id: string): void {
    if (this.read.has(id)) return;
    appendFileSync(this.file, `${JSON.stringify({ read: id })}\n`);
    this.read.add(id);
  }

  isRead(id: string): boolean {
    return this.read.has(id);
  }

  get(id: string): Letter | null {
    const letter = this.byId.get(id);
    return letter ? { ...letter, read: this.isRead(id) } : null;
  }

  /** Takes letters away for good: out of memory, and out of the file, which is put in the place of the old one at once. */
  forget(isGone: (letter: StoredLetter) => boolean): void {
    const kept = [...this.byId.values()].filter((letter) => !isGone(letter));
    if (kept.length === this.byId.size) return;
    const read = kept.flatMap(({ id }) => (this.isRead(id) ? [id] : []));
    const lines = [...kept.map((letter) => ({ letter })), ...read.map((id) => ({ read: id }))];
    writeFileSync(`${this.file}.new`, lines.map((line) => `${JSON.stringify(line)}\n`).join(''));
    renameSync(`${this.file}.new`, this.file);
    for (const map of [this.byId, this.byAddress]) map.clear();
    this.read.clear();
    kept.forEach((letter) => this.keep(letter));
    read.forEach((id) => this.read.add(id));
  }

  /** A mailbox, in order of arrival. */
  of(address: string): readonly StoredLetter[] {
    return this.byAddress.get(address.toLowerCase()) ?? [];
  }

  /** Every address that got a letter, in lower case. */
  addresses(): readonly string[] {
    return [...this.byAddress.keys()];
  }

  get count(): number {
    return this.byId.size;
  }

  /** When letters reached an address, in order. */
  arrivals(address: string): readonly Instant[] {
    return this.of(address).map((l) => l.at);
  }
}
