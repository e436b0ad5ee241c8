/** Where files are dropped or chosen; what becomes of them is the place's own. */
import { useRef, useState, type DragEvent, type ReactNode } from 'react';
import type { LucideIcon } from 'lucide-react';
import { Button } from './Button.tsx';

export function DropZone(props: {
  readonly icon: LucideIcon;
  readonly title: string;
  readonly about: ReactNode;
  /** What the button says. */
  readonly choose: string;
  /** What the field behind the button is called, where that is something else. */
  readonly label?: string;
  readonly accept?: string;
  /** Several at once. */
  readonly multiple?: boolean;
  readonly busy?: boolean;
  /** A quiet button, where a file is there already. */
  readonly quiet?: boolean;
  readonly onFiles: (files: readonly File[]) => void;
  /** Further buttons. */
  readonly children?: ReactNode;
}) {
  const { icon: Icon, multiple = false } = props;
  const chooser = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const give = (files: readonly File[]) => {
    if (files.length > 0) props.onFiles(multiple ? files : files.slice(0, 1));
  };
  const onDrop = (e: DragEvent) => {
    e.preventDefault();
    setOver(false);
    give([...e.dataTransfer.files]);
  };
  return (
    <div
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={onDrop}
      className={`flex flex-wrap items-center gap-x-4 gap-y-3 rounded-[16px] border-2 border-dashed px-5 py-5 ${over ? 'border-pine bg-zest-soft' : 'border-line-strong bg-sheet'}`}
    >
      <Icon aria-hidden size={26} className="shrink-0 text-pine" />
      <span className="min-w-0 flex-1 basis-72">
        <strong className="block truncate text-[16px]">{props.title}</strong>
        <span className="text-[14px] text-ink-2">{props.about}</span>
      </span>
      <input
        ref={chooser}
        type="file"
        multiple={multiple}
        accept={props.accept}
        className="sr-only"
        aria-label={props.label ?? props.choose}
        tabIndex={-1}
        onChange={(e) => {
          const files = [...(e.target.files ?? [])];
          // The same file may be chosen again.
          e.target.value = '';
          give(files);
        }}
      />
      <Button
        {...(props.quiet ? {} : { look: 'main' as const })}
        busy={props.busy ?? false}
        onClick={() => chooser.current?.click()}
      >
        {props.choose}
      </Button>
      {props.children}
    </div>
  );
}
