import { formatInstant } from '../time/instant.ts';
import type { Rule } from './rule.ts';

/** A rule in the rule format again, for storing and sending: instants as ISO text in the course's zone. */
export const ruleDocument = (rule: Rule, zone: string): object => ({
  ...rule,
  spellsFrom: rule.spellsFrom === null ? null : formatInstant(rule.spellsFrom, zone),
});
