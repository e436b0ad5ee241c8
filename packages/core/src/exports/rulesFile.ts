/**
 * Rules and wordings as one file, `zest-bell/rules@1`: what was decided in a course, with as much of the course as carrying it over
 * needs (engine K1 to K8). Nobody's name is in it.
 */
import { z } from 'zod';
import { BOUNDS } from '../course/bounds.ts';
import { makeCourse, type Course } from '../course/course.ts';
import { entryIdSchema, lineSchema, listSchema } from '../course/entry.ts';
import { joinPath, problemsOfIssues, type ParseResult, type Problem } from '../problem/problem.ts';
import { ruleDocument } from '../rules/document.ts';
import { parseRule, type Rule } from '../rules/rule.ts';
import { scenarioItemSchema, scenarioSchema } from '../scenario/format.ts';
import { itemDocument } from '../scenario/write.ts';
import { MOST_FILE_BYTES, wordingSchema, type Wording } from '../wording/wording.ts';

const RULES_FORMAT = 'zest-bell/rules@1';

/** A file that goes with a wording, or a picture in one. */
export interface RulesFilePart {
  readonly id: string;
  readonly name: string;
  readonly type: string;
  /** Base64. */
  readonly bytes: string;
}

export interface DecidedFile {
  readonly course: Course;
  readonly rules: readonly Rule[];
  readonly wordings: readonly Wording[];
  readonly files: readonly RulesFilePart[];
}

/** What goes into the file. Rules come as they are, but for what belongs to people and to this term's rounds. */
export function rulesFileOf({ course, rules, wordings, files }: DecidedFile): object {
  const { code, title, timeZone, start, end, breaks, groupWeights, marks, settings } = course;
  return {
    format: RULES_FORMAT,
    course: { code, title, timeZone, start, end, breaks, groupWeights, marks },
    settings,
    items: course.items.map((item) => {
      const { excused: _e, extensions: _x, ...plain } = itemDocument(item, timeZone) as Record<string, unknown>;
      return plain;
    }),
    wordings,
    files,
    rules: rules.map((rule) =>
      ruleDocument({ ...rule, spellsFrom: null, audience: { ...rule.audience, except: [] } }, timeZone),
    ),
  };
}

const { course: courseSchema, settings } = scenarioSchema.shape;
const MOST_FILES = 100;

const fileSchema = z.strictObject({
  format: z.literal(RULES_FORMAT, `The format is “${RULES_FORMAT}”`),
  course: courseSchema,
  settings,
  items: listSchema(scenarioItemSchema, BOUNDS.items, 'items').default([]),
  wordings: z.array(wordingSchema).max(500, 'At most 500 wordings').default([]),
  files: z
    .array(
      z.strictObject({
        id: entryIdSchema,
        name: lineSchema(),
        type: z.string().max(120),
        bytes: z.base64('This is no base64').max(Math.ceil(MOST_FILE_BYTES / 3) * 4, 'A file has at most 5 MB'),
      }),
    )
    .max(MOST_FILES, `At most ${MOST_FILES} files`)
    .default([]),
  rules: listSchema(z.unknown(), BOUNDS.rules, 'rules').default([]),
});

/** Reads such a file, or says everything that does not fit, each at its own path. */
export function parseRulesFile(json: unknown): ParseResult<DecidedFile> {
  const parsed = fileSchema.safeParse(json);
  const problems: Problem[] = parsed.success ? [] : problemsOfIssues(parsed.error.issues);
  const drafts = (json as { rules?: unknown } | null)?.rules;
  const rules = (Array.isArray(drafts) ? (drafts as unknown[]) : [])
    .slice(0, BOUNDS.rules)
    .map((draft, i) => parseRule(draft, joinPath('rules', i)));
  for (const rule of rules) if (!rule.ok) problems.push(...rule.problems);
  if (parsed.success) problems.push(...sameIds('rules', rules), ...missingWordings(parsed.data.wordings, rules));
  if (!parsed.success || problems.length > 0) return { ok: false, problems };
  const { course, items, wordings, files } = parsed.data;
  return {
    ok: true,
    value: {
      course: makeCourse({
        ...course,
        groupWeights: course.groupWeights ?? null,
        settings: parsed.data.settings,
        people: [],
        items: items.map((i) => ({
          ...i,
          group: i.group ?? null,
          points: i.points ?? null,
          excused: [],
          extensions: [],
          opensAt: i.opensAt ?? null,
          dueAt: i.dueAt ?? null,
        })),
      }),
      rules: rules.flatMap((r) => (r.ok ? [r.value] : [])),
      wordings,
      files,
    },
  };
}

function sameIds(list: string, rules: readonly ParseResult<Rule>[]): Problem[] {
  const seen = new Set<string>();
  return rules.flatMap((r, i): Problem[] => {
    if (!r.ok || !seen.has(r.value.id)) {
      if (r.ok) seen.add(r.value.id);
      return [];
    }
    return [{ path: joinPath(list, i, 'id'), code: 'sameId', message: `The id “${r.value.id}” is there twice` }];
  });
}

/** A rule says what is in the file. */
function missingWordings(wordings: readonly { readonly id: string }[], rules: readonly ParseResult<Rule>[]): Problem[] {
  const there = new Set(wordings.map((w) => w.id));
  return rules.flatMap((r, i) =>
    r.ok
      ? r.value.steps.flatMap((s, n): Problem[] =>
          there.has(s.wording)
            ? []
            : [
                {
                  path: joinPath('rules', i, 'steps', n, 'wording'),
                  code: 'notInFile',
                  message: `There is no wording “${s.wording}” in this file`,
                },
              ],
        )
      : [],
  );
}
