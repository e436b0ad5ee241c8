/**
 * The chips of the editor: each opens in its place, to be changed or taken out. Tab passes them all; the arrow keys go through them like
 * letters, and Enter opens the one that is chosen.
 */
import { useState, type ReactNode } from 'react';
import { NodeViewWrapper, type NodeViewProps } from '@tiptap/react';
import { Popover } from 'radix-ui';
import { Pop } from '../../ui/Pop.tsx';
import { isTypedAddress, linkedItem } from '@zest-bell/core/wording';
import { useHere } from '../../lib/here.ts';
import { pictureUrl } from '../messages/files.ts';
import { fieldTitleIn } from './fieldTitleIn.ts';
import { partOf, tagWords } from './liquidDoc.ts';

const FIELD_LOOK = 'rounded-md bg-zest-soft px-1.5 text-left font-semibold text-ink hover:underline';

function OpeningChip(props: {
  /** What kind of thing it is, for who cannot see how it looks. */
  readonly kind: string;
  readonly look: string;
  readonly shown: ReactNode;
  readonly title: string;
  readonly takeOut: string;
  readonly of: NodeViewProps;
  readonly children?: ReactNode;
}) {
  const { editor, selected, deleteNode } = props.of;
  return (
    <NodeViewWrapper as="span" className="inline-block max-w-full">
      <Popover.Root>
        <Popover.Trigger
          contentEditable={false}
          tabIndex={-1}
          className={`${props.look} ${selected ? 'outline-2 outline-offset-1 outline-pine' : ''}`}
        >
          <span className="sr-only">{props.kind}: </span>
          {props.shown}
        </Popover.Trigger>
        <Pop
          label={props.title}
          align="center"
          onFocusBack={() => editor.view.focus()}
          className="grid w-[300px] gap-3 p-4"
        >
          {props.children}
          <Popover.Close
            className="justify-self-start font-semibold text-pine underline-offset-4 hover:underline"
            onClick={() => deleteNode()}
          >
            {props.takeOut}
          </Popover.Close>
        </Pop>
      </Popover.Root>
    </NodeViewWrapper>
  );
}

function ChipInput(props: {
  readonly label: string;
  readonly value: string;
  readonly onChange: (value: string) => void;
}) {
  return (
    <label className="grid gap-1 text-[13px] font-semibold text-ink-2">
      {props.label}
      <input
        className="field font-normal text-ink"
        value={props.value}
        onChange={(e) => props.onChange(e.target.value)}
      />
    </label>
  );
}

/** A merge field; its fallback opens in its place. */
export function FieldChip(props: NodeViewProps) {
  const { node, updateAttributes } = props;
  const { items } = useHere().course;
  const name = String(node.attrs['name']);
  const fallback = node.attrs['fallback'] as string | null;
  const isLink = linkedItem(name) !== null;
  return (
    <OpeningChip
      kind={isLink ? 'Link to an item' : fallback ? 'Field' : 'Field without a fallback'}
      look={FIELD_LOOK}
      shown={
        <>
          {isLink && <span aria-hidden>↗ </span>}
          {fieldTitleIn(name, items)}
          {fallback ? <span className="font-normal text-ink-2"> or {fallback.replace(/^- /, '')}</span> : ''}
        </>
      }
      title="The field"
      takeOut="Remove the field"
      of={props}
    >
      {!isLink && (
        <ChipInput
          label="If the field is empty, write"
          value={fallback ?? ''}
          onChange={(value) => updateAttributes({ fallback: value === '' ? null : value })}
        />
      )}
    </OpeningChip>
  );
}

/** A link that was typed. */
export function LinkChip(props: NodeViewProps) {
  const { node, updateAttributes } = props;
  const words = String(node.attrs['words']);
  // What is half typed stays in the field and changes nothing.
  const [typed, setTyped] = useState(String(node.attrs['url']));
  const wrong = !isTypedAddress(typed);
  return (
    <OpeningChip
      kind="Link"
      look={FIELD_LOOK}
      shown={
        <>
          <span aria-hidden>↗ </span>
          {words}
        </>
      }
      title="The link"
      takeOut="Remove the link"
      of={props}
    >
      <ChipInput
        label="Text"
        value={words}
        onChange={(value) => value.trim() !== '' && updateAttributes({ words: value })}
      />
      <ChipInput
        label="Leads to"
        value={typed}
        onChange={(value) => {
          setTyped(value);
          if (isTypedAddress(value)) updateAttributes({ url: value });
        }}
      />
      {wrong && <p className="text-[13px] text-tangerine-text">▲ Begin the address with https:// or mailto:</p>}
    </OpeningChip>
  );
}

/** A picture in the text, with words for those who cannot see it. */
export function PictureChip(props: NodeViewProps) {
  const { node, updateAttributes } = props;
  const here = useHere();
  const alt = String(node.attrs['alt']);
  const source = pictureUrl(here.id, String(node.attrs['file']));
  return (
    <OpeningChip
      kind="Picture"
      look="inline-block max-w-full rounded-md border border-line-strong p-1 align-middle hover:border-ink"
      shown={<img src={source} alt={alt} className="max-h-24 max-w-full" />}
      title="The picture"
      takeOut="Remove the picture"
      of={props}
    >
      <ChipInput
        label="Describe the picture for readers who cannot see it"
        value={alt}
        onChange={(value) => updateAttributes({ alt: value })}
      />
    </OpeningChip>
  );
}

/** A condition, or a tag that no chip has words for. */
export function TagChip({ node }: NodeViewProps) {
  const { items } = useHere().course;
  const source = String(node.attrs['source']);
  const words = tagWords(source, (field) => fieldTitleIn(field, items));
  const ends = partOf(source) === 'ends';
  return (
    <NodeViewWrapper as="span" className="inline-block">
      <span
        contentEditable={false}
        title={ends ? 'The conditional part ends here' : undefined}
        className={`text-[13px] text-iris ${ends ? 'rounded-r-md bg-iris-soft px-1' : 'rounded-md bg-iris-soft px-1.5 ring-1 ring-iris/40'} ${words === null ? 'font-num' : 'font-semibold'}`}
      >
        {ends ? (
          <>
            <span className="sr-only">end of the conditional part</span>
            <span aria-hidden>◂</span>
          </>
        ) : (
          (words ?? source)
        )}
      </span>
    </NodeViewWrapper>
  );
}
