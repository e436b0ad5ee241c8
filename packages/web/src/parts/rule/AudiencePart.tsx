import { ROLES, type Course, type Role, nameIn } from '@zest-bell/core/course';
import { audienceWords, type Audience } from '@zest-bell/core/rules';
import { Check, SelectField } from '../../ui/fields.tsx';
import { Part } from '../../ui/Part.tsx';

/** Whom the rule is about: students, unless said otherwise. */
export function AudiencePart({
  audience,
  course,
  onChange,
}: {
  readonly audience: Audience;
  readonly course: Course;
  readonly onChange: (audience: Audience) => void;
}) {
  const sections = [...new Set(course.people.map((p) => p.section).filter((s) => s !== null))].sort();
  const people = course.people
    .filter((p) => audience.roles.includes(p.role) && !audience.except.includes(p.id))
    .toSorted((a, b) => nameIn(course, a.id).localeCompare(nameIn(course, b.id), 'en'));
  const toggle = (role: Role, on: boolean) => {
    const roles = ROLES.filter((r) => (r === role ? on : audience.roles.includes(r)));
    if (roles.length > 0) onChange({ ...audience, roles });
  };
  return (
    <Part words={audienceWords(audience, course)} label="For whom">
      <fieldset>
        <legend className="text-[13px] font-semibold text-ink-2">People who are</legend>
        {ROLES.map((role) => (
          <Check
            key={role}
            label={`${role}s`}
            checked={audience.roles.includes(role)}
            onChange={(on) => toggle(role, on)}
          />
        ))}
        {audience.roles.some((r) => r !== 'student') && (
          <p className="mt-1 text-[13px] text-tangerine-text">
            ▲ People who are not students would get messages for students.
          </p>
        )}
      </fieldset>
      {sections.length > 1 && (
        <fieldset>
          <legend className="text-[13px] font-semibold text-ink-2">
            In sections (leave all unchecked for every section)
          </legend>
          <div className="flex gap-4">
            {sections.map((s) => (
              <Check
                key={s}
                label={s}
                checked={audience.sections.includes(s)}
                onChange={(on) =>
                  onChange({
                    ...audience,
                    sections: sections.filter((x) => (x === s ? on : audience.sections.includes(x))),
                  })
                }
              />
            ))}
          </div>
        </fieldset>
      )}
      <SelectField
        label="Leave out by name"
        value=""
        onChange={(e) => e.target.value && onChange({ ...audience, except: [...audience.except, e.target.value] })}
      >
        <option value="">Choose a person …</option>
        {people.map((p) => (
          <option key={p.id} value={p.id}>
            {nameIn(course, p.id)}
          </option>
        ))}
      </SelectField>
      {audience.except.length > 0 && (
        <ul className="flex flex-wrap gap-1.5">
          {audience.except.map((id) => {
            const name = nameIn(course, id);
            return (
              <li key={id}>
                <button
                  type="button"
                  aria-label={`Include ${name}`}
                  onClick={() => onChange({ ...audience, except: audience.except.filter((x) => x !== id) })}
                  className="rounded-full bg-fog px-3 py-1 text-[13px] font-semibold hover:line-through"
                >
                  {name} ✕
                </button>
              </li>
            );
          })}
        </ul>
      )}
    </Part>
  );
}
