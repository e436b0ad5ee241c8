/** Where a template writes which merge field, and whether something is there for a student without a value. */
import { CaseTag, IfTag, Output, UnlessTag, type Template, type Token } from 'liquidjs';

export interface FieldUse {
  /** `student.first_name`; `link["lab-3"]`. */
  readonly field: string;
  /** As written, with its braces. */
  readonly quote: string;
  /** Written without a `default`, and outside a condition on the field: a blank is left where there is no value. */
  readonly bare: boolean;
}

/** Every place at which a field is written, in the order of the text. */
export function usesOf(templates: readonly Template[]): FieldUse[] {
  const uses: FieldUse[] = [];
  walk(templates, new Set(), uses);
  return uses;
}

interface LiquidOutput {
  readonly initial?: { readonly postfix?: readonly Token[] };
  readonly filters?: readonly { readonly name: string; readonly args: readonly unknown[] }[];
}

const FIELD = /^[a-z]\w*(?:\.\w+|\[(?:"[^"]*"|'[^']*')\])+$/i;

/** The fields that an expression reads. */
const fieldsOf = (value: LiquidOutput | undefined): string[] =>
  (value?.initial?.postfix ?? []).map((token) => token.getText()).filter((text) => FIELD.test(text));

/** Whether an expression compares, as in `field == blank`: then a branch without the condition is about the field too. */
const compares = (value: LiquidOutput | undefined): boolean => (value?.initial?.postfix ?? []).length > 1;

function walk(templates: readonly Template[], guarded: ReadonlySet<string>, uses: FieldUse[]): void {
  for (const template of templates) {
    if (template instanceof Output) {
      const value = template.value as unknown as LiquidOutput;
      const covered = (value.filters ?? []).some((f) => f.name === 'default' && f.args.length > 0);
      for (const field of fieldsOf(value)) {
        uses.push({ field, quote: template.token.getText(), bare: !covered && !guarded.has(field) });
      }
    } else if (template instanceof IfTag || template instanceof UnlessTag) {
      const compared: string[] = [];
      for (const branch of template.branches) {
        const value = branch.value as unknown as LiquidOutput;
        const fields = fieldsOf(value);
        if (compares(value) || template instanceof UnlessTag) compared.push(...fields);
        walk(branch.templates, new Set([...guarded, ...fields, ...compared]), uses);
      }
      walk(template.elseTemplates ?? [], new Set([...guarded, ...compared]), uses);
    } else if (template instanceof CaseTag) {
      const within = new Set([...guarded, ...fieldsOf(template.value)]);
      for (const branch of template.branches) walk(branch.templates, within, uses);
      walk(template.elseTemplates ?? [], within, uses);
    } else if ('templates' in template) {
      walk(template.templates as Template[], guarded, uses);
    }
  }
}
