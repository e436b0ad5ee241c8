import { useNavigate } from 'react-router';
import { Command } from 'cmdk';
import { PLACES } from './places.ts';
import { useCourses, useRules } from './queries.ts';
import type { Here } from './here.ts';

/** Go to anything by typing a part of its name. */
export function Palette(props: {
  readonly open: boolean;
  readonly onClose: () => void;
  readonly here: Here;
  readonly onShortcuts: () => void;
}) {
  const navigate = useNavigate();
  const courses = useCourses();
  const rules = useRules(props.here.id);
  const go = (path: string) => {
    props.onClose();
    void navigate(path);
  };
  const item = 'cursor-pointer rounded-lg px-3 py-2 data-[selected=true]:bg-fog';
  const heading =
    '[&_[cmdk-group-heading]]:px-3 [&_[cmdk-group-heading]]:pt-3 [&_[cmdk-group-heading]]:pb-1 [&_[cmdk-group-heading]]:text-[13px] [&_[cmdk-group-heading]]:text-ink-3';
  return (
    <Command.Dialog
      open={props.open}
      onOpenChange={(open) => !open && props.onClose()}
      label="Go to anything"
      overlayClassName="fixed inset-0 z-40 bg-[#0a100d]/55"
      contentClassName="pop fixed top-[12vh] left-1/2 z-50 w-[calc(100vw-32px)] max-w-[560px] -translate-x-1/2 overflow-hidden"
    >
      <Command.Input
        placeholder="Go to a place, a rule, a course …"
        className="w-full border-b border-line bg-transparent px-5 py-4 text-lg outline-none"
      />
      <Command.List className="max-h-[50vh] overflow-auto p-2">
        <Command.Empty className="p-4 text-ink-2">Nothing of that name.</Command.Empty>
        <Command.Group heading="Places" className={heading}>
          {PLACES.map((p, i) => (
            <Command.Item key={p.path} className={item} onSelect={() => go(`/c/${props.here.id}/${p.path}`)}>
              {p.name} <kbd className="float-right font-num text-[12.5px] text-ink-3">{i + 1}</kbd>
            </Command.Item>
          ))}
          {props.here.demo && (
            <Command.Item className={item} onSelect={() => go('/mailroom')}>
              Mailroom
            </Command.Item>
          )}
        </Command.Group>
        <Command.Group heading="Rules" className={heading}>
          {(rules.data ?? []).map(({ rule }) => (
            <Command.Item key={rule.id} className={item} onSelect={() => go(`/c/${props.here.id}/rules/${rule.id}`)}>
              {rule.name}
            </Command.Item>
          ))}
        </Command.Group>
        <Command.Group heading="Courses" className={heading}>
          {(courses.data ?? []).map((c) => (
            <Command.Item key={c.id} className={item} onSelect={() => go(`/c/${c.id}/rules`)}>
              {c.code} {c.title}
            </Command.Item>
          ))}
        </Command.Group>
        <Command.Group heading="Help" className={heading}>
          <Command.Item
            className={item}
            onSelect={() => {
              props.onClose();
              props.onShortcuts();
            }}
          >
            Keyboard shortcuts
          </Command.Item>
        </Command.Group>
      </Command.List>
    </Command.Dialog>
  );
}
