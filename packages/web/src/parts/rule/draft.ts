/** Drafts of rules: only this browser knows them, each tab its own, and they outlive a reload. Every change can be undone. */
import { create } from 'zustand';
import { persist } from 'zustand/middleware';
import type { Rule } from '@zest-bell/core/rules';
import { tabStorage } from '../../lib/tabStorage.ts';

export interface RuleDraftState {
  readonly rule: Rule;
  /** The saved version it was begun from, and what that said; drafts of before that was kept have none. */
  readonly version: number;
  readonly base?: Rule;
  readonly past: readonly Rule[];
  readonly future: readonly Rule[];
  /** Changes of one tag in a row (a drag, typing a number) are one step of undo. */
  readonly tag: string | null;
}

interface RuleDrafts {
  readonly drafts: Readonly<Record<string, RuleDraftState>>;
  readonly edit: (key: string, from: { rule: Rule; version: number }, rule: Rule, tag?: string) => void;
  readonly undo: (key: string) => void;
  readonly redo: (key: string) => void;
  /** Takes the draft over to a newer saved version, merged with what that says. */
  readonly rebase: (key: string, saved: { rule: Rule; version: number }, merged: Rule) => void;
  readonly drop: (key: string) => void;
}

const MOST_STEPS = 60;

export const draftKey = (course: number, rule: string): string => `${course}/${rule}`;

export const useDrafts = create<RuleDrafts>()(
  persist(
    (set) => {
      const change = (key: string, next: (draft: RuleDraftState) => RuleDraftState) =>
        set(({ drafts }) => {
          const draft = drafts[key];
          return draft ? { drafts: { ...drafts, [key]: next(draft) } } : {};
        });
      return {
        drafts: {},
        edit: (key, from, rule, tag) =>
          set(({ drafts }) => {
            const old = drafts[key] ?? { ...from, base: from.rule, past: [], future: [], tag: null };
            const merges = tag !== undefined && tag === old.tag;
            const past = merges ? old.past : [...old.past, old.rule].slice(-MOST_STEPS);
            return { drafts: { ...drafts, [key]: { ...old, rule, past, future: [], tag: tag ?? null } } };
          }),
        undo: (key) =>
          change(key, (d) => {
            const rule = d.past.at(-1);
            return rule ? { ...d, rule, past: d.past.slice(0, -1), future: [d.rule, ...d.future], tag: null } : d;
          }),
        redo: (key) =>
          change(key, (d) => {
            const [rule, ...future] = d.future;
            return rule ? { ...d, rule, past: [...d.past, d.rule], future, tag: null } : d;
          }),
        rebase: (key, saved, rule) =>
          change(key, (d) => ({
            version: saved.version,
            base: saved.rule,
            rule,
            past: [...d.past, d.rule].slice(-MOST_STEPS),
            future: [],
            tag: null,
          })),
        drop: (key) =>
          set(({ drafts }) => {
            const { [key]: _gone, ...rest } = drafts;
            return { drafts: rest };
          }),
      };
    },
    {
      name: 'zest-bell-drafts',
      version: 1,
      storage: tabStorage('drafts'),
      // What can be undone is of this page: written down at every move of a drag it would hold the page up.
      partialize: ({ drafts }) => ({
        drafts: Object.fromEntries(Object.entries(drafts).map(([key, d]) => [key, { ...d, past: [], future: [] }])),
      }),
    },
  ),
);

/** Whether two rules say the same, their status aside: that is switched, not drafted. */
export const sameRule = (a: Rule, b: Rule): boolean =>
  JSON.stringify({ ...a, status: '' }) === JSON.stringify({ ...b, status: '' });
