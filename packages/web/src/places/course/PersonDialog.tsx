/** One person of the course, with everything that is known of them; or a new one. */
import { isSame, mergedSet, ROLES, type Person, type PersonEdit } from '@zest-bell/core/course';
import type { CourseHere } from '../../lib/here.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { Check, Labelled, SelectField } from '../../ui/fields.tsx';
import { fromLocal, toLocal } from '../../ui/instants.ts';
import { useKept } from '../../lib/useKept.ts';
import { Collisions } from '../../parts/editing/Collisions.tsx';
import { useEdit } from '../../parts/editing/useEdit.ts';

const ROLE_WORDS = {
  student: 'Student',
  instructor: 'Instructor',
  assistant: 'Assistant',
  observer: 'Observer',
} as const;

export function PersonDialog(props: {
  readonly here: CourseHere;
  readonly person: Person | null;
  readonly onClose: () => void;
}) {
  const { here } = props;
  // As it is by now, also where somebody else saves in the meantime.
  const person =
    props.person && (here.course.people[here.course.personIndex.get(props.person.id) ?? -1] ?? props.person);
  const zone = here.course.timeZone;
  const edit = useEdit(here);
  const saved: PersonEdit = {
    firstName: person?.firstName ?? '',
    lastName: person?.lastName ?? '',
    email: person?.email ?? '',
    role: person?.role ?? 'student',
    section: person?.section ?? '',
    active: person?.active ?? true,
    enrolledAt: person?.enrolledAt ?? Math.max(here.course.calendar.start, here.course.calendar.dayStart(here.now)),
    paused: person?.paused ?? false,
    contacts: person ? person.contacts.map((c) => ({ ...c })) : [],
    fields: { ...person?.fields },
  };
  const { value: typed, set: setTyped, drop: dropTyped } = useKept(`person ${here.id} ${person?.id ?? 'new'}`, saved);
  const { value: was, set: setWas, drop: dropWas } = useKept(`person before ${here.id} ${person?.id ?? 'new'}`, saved);
  // What somebody else changes in the meantime shows at once, but for what is typed here.
  const draft = mergedSet(saved, typed, was, saved).set;
  const dirty = !isSame(draft, saved);
  const drop = () => {
    dropTyped();
    dropWas();
  };
  const set = (part: Partial<PersonEdit>) => {
    edit.clear();
    setWas((before) => before);
    setTyped((d) => ({ ...d, ...part }));
  };
  const save = async () => {
    const contacts = draft.contacts.filter((c) => c.kind !== '' || c.name !== '' || c.email !== '');
    const entry = { id: person?.id ?? null, set: { ...draft, contacts }, was, seen: edit.collided ? saved : undefined };
    if (await edit.save({ people: [entry] })) {
      drop();
      props.onClose();
    }
  };
  const own = [...new Set([...here.course.people.flatMap((p) => Object.keys(p.fields)), ...Object.keys(draft.fields)])];
  const text = (field: 'firstName' | 'lastName' | 'email' | 'section', label: string) => (
    <Labelled label={label} problem={edit.problemOf(field)}>
      {(id) => (
        <input
          id={id}
          className="field"
          autoComplete="off"
          value={draft[field] ?? ''}
          aria-invalid={edit.problemOf(field) !== undefined}
          onChange={(e) => set({ [field]: e.target.value })}
        />
      )}
    </Labelled>
  );
  return (
    <Dialog
      open
      onClose={props.onClose}
      title={person ? `${person.firstName} ${person.lastName}`.trim() : 'Add a person'}
      note={person && <>Id {person.id}</>}
      foot={
        <>
          <Button look="main" busy={edit.busy} onClick={() => save()}>
            {person ? 'Save changes' : 'Add person'}
          </Button>
          {dirty && (
            <Button
              onClick={() => {
                drop();
                props.onClose();
              }}
            >
              Discard changes
            </Button>
          )}
        </>
      }
    >
      <div className="grid gap-4 px-6 py-5 min-[500px]:grid-cols-2">
        <Collisions edit={edit} shown={['firstName', 'lastName', 'email', 'section', 'enrolledAt', 'fields']} />
        {text('firstName', 'First name')}
        {text('lastName', 'Last name')}
        {text('email', 'Email address')}
        {text('section', 'Section')}
        <SelectField
          label="Role"
          value={draft.role}
          onChange={(e) => set({ role: e.target.value as PersonEdit['role'] })}
        >
          {ROLES.map((role) => (
            <option key={role} value={role}>
              {ROLE_WORDS[role]}
            </option>
          ))}
        </SelectField>
        <Labelled label="Enrolled on" problem={edit.problemOf('enrolledAt')}>
          {(id) => (
            <input
              id={id}
              type="date"
              className="field font-num"
              value={toLocal(draft.enrolledAt, zone).slice(0, 10)}
              onChange={(e) => {
                const at = fromLocal(e.target.value, zone);
                if (at !== null) set({ enrolledAt: at });
              }}
            />
          )}
        </Labelled>
        <div className="grid gap-1 min-[500px]:col-span-2">
          <Check
            label="Active: rules look at this person"
            checked={draft.active}
            onChange={(active) => set({ active })}
          />
          <Check
            label="Paused: gets no nudges, except from essential rules"
            checked={draft.paused}
            onChange={(paused) => set({ paused })}
          />
        </div>
        <fieldset className="grid gap-2 min-[500px]:col-span-2">
          <legend className="text-[15px] font-bold">Contacts</legend>
          {draft.contacts.map((contact, i) => (
            <div key={i} className="grid grid-cols-[1fr_1fr_1.4fr_auto] items-end gap-2">
              {(['kind', 'name', 'email'] as const).map((field) => (
                <Labelled
                  key={field}
                  label={{ kind: 'Kind', name: 'Name', email: 'Email address' }[field]}
                  problem={edit.problems.find((p) => p.path.endsWith(`contacts[${i}].${field}`))?.message}
                >
                  {(id) => (
                    <input
                      id={id}
                      className="field min-w-0"
                      value={contact[field]}
                      onChange={(e) =>
                        set({
                          contacts: draft.contacts.map((c, n) => (n === i ? { ...c, [field]: e.target.value } : c)),
                        })
                      }
                    />
                  )}
                </Labelled>
              ))}
              <Button
                aria-label={`Remove the contact ${contact.name || contact.kind}`}
                onClick={() => set({ contacts: draft.contacts.filter((_, n) => n !== i) })}
              >
                Remove
              </Button>
            </div>
          ))}
          <div>
            <Button
              look="quiet"
              onClick={() => set({ contacts: [...draft.contacts, { kind: '', name: '', email: '' }] })}
            >
              Add a contact
            </Button>
          </div>
        </fieldset>
        {own.length > 0 && (
          <fieldset className="grid gap-3 min-[500px]:col-span-2 min-[500px]:grid-cols-2">
            <legend className="mb-1 text-[15px] font-bold">Your own columns</legend>
            {own.map((name) => (
              <Labelled key={name} label={name} problem={edit.problemOf(`fields.${name}`)}>
                {(id) => (
                  <input
                    id={id}
                    className="field"
                    value={draft.fields[name] ?? ''}
                    onChange={(e) => set({ fields: { ...draft.fields, [name]: e.target.value } })}
                  />
                )}
              </Labelled>
            ))}
          </fieldset>
        )}
      </div>
    </Dialog>
  );
}
