/** The text of a message with its merge fields and conditions as chips. */
import { useEffect, useRef } from 'react';
import { Node as TiptapNode, mergeAttributes, type JSONContent } from '@tiptap/core';
import { Document } from '@tiptap/extension-document';
import { HardBreak } from '@tiptap/extension-hard-break';
import { BulletList, ListItem } from '@tiptap/extension-list';
import { Paragraph } from '@tiptap/extension-paragraph';
import { Text } from '@tiptap/extension-text';
import { UndoRedo } from '@tiptap/extensions';
import { EditorContent, NodeViewWrapper, ReactNodeViewRenderer, useEditor, type NodeViewProps } from '@tiptap/react';
import { Popover } from 'radix-ui';
import { MERGE_FIELDS } from '@zest-bell/core';
import { docOf, sourceOf, tagWords, type DocNode } from './liquidDoc.ts';

const titleOf = (field: string): string => MERGE_FIELDS.find((f) => f.name === field)?.title ?? field;

const FieldNode = TiptapNode.create({
  name: 'field',
  group: 'inline',
  inline: true,
  atom: true,
  addAttributes: () => ({ name: { default: '' }, fallback: { default: null } }),
  parseHTML: () => [{ tag: 'span[data-field]' }],
  renderHTML: ({ HTMLAttributes }) => ['span', mergeAttributes(HTMLAttributes, { 'data-field': '' })],
  addNodeView: () => ReactNodeViewRenderer(FieldChip, { as: 'span' }),
});

const TagNode = TiptapNode.create({
  name: 'tag',
  group: 'inline',
  inline: true,
  atom: true,
  addAttributes: () => ({ source: { default: '' } }),
  parseHTML: () => [{ tag: 'span[data-tag]' }],
  renderHTML: ({ HTMLAttributes }) => ['span', mergeAttributes(HTMLAttributes, { 'data-tag': '' })],
  addNodeView: () => ReactNodeViewRenderer(TagChip, { as: 'span' }),
});

/** A merge field; its fallback opens where it stands. */
function FieldChip({ node, updateAttributes, deleteNode }: NodeViewProps) {
  const name = String(node.attrs['name']);
  const fallback = node.attrs['fallback'] as string | null;
  return (
    <NodeViewWrapper as="span" className="inline-block">
      <Popover.Root>
        <Popover.Trigger
          contentEditable={false}
          aria-label={`Field: ${titleOf(name)}${fallback ? `, else “${fallback}”` : ', without a fallback'}`}
          className="rounded-md bg-zest-soft px-1.5 font-semibold text-ink hover:underline"
        >
          {titleOf(name)}
          {fallback ? <span className="font-normal text-ink-2"> or {fallback}</span> : ''}
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content
            sideOffset={6}
            collisionPadding={12}
            aria-label="The field"
            className="pop z-[60] grid w-[300px] gap-3 p-4"
          >
            <p className="font-num text-[12.5px] text-ink-3">{name}</p>
            <label className="grid gap-1 text-[13px] font-semibold text-ink-2">
              Where there is nothing to say, write
              <input
                className="field font-normal text-ink"
                value={fallback ?? ''}
                onChange={(e) => updateAttributes({ fallback: e.target.value === '' ? null : e.target.value })}
              />
            </label>
            <Popover.Close
              className="justify-self-start font-semibold text-pine underline-offset-4 hover:underline"
              onClick={() => deleteNode()}
            >
              Take the field out
            </Popover.Close>
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
    </NodeViewWrapper>
  );
}

function TagChip({ node }: NodeViewProps) {
  const source = String(node.attrs['source']);
  const words = tagWords(source, titleOf);
  return (
    <NodeViewWrapper as="span" className="inline-block" title={source}>
      <span
        contentEditable={false}
        className={`rounded-md bg-iris-soft px-1.5 text-[13px] text-iris ${words === null ? 'font-num' : 'font-semibold'}`}
      >
        {words ?? source}
      </span>
    </NodeViewWrapper>
  );
}

/** What the rest of the dialog may do with the text. */
export interface WordsHandle {
  insertField(name: string, fallback: string | null): void;
  /** Puts what is selected, or what is typed next, under a condition. */
  insertCondition(field: string): void;
}

export default function WordsEditor(props: {
  readonly label: string;
  /** A subject: one line, and nothing but words and fields in it. */
  readonly single?: boolean;
  readonly value: string;
  readonly invalid: boolean;
  readonly describedBy: string | undefined;
  readonly onChange: (source: string) => void;
  /** Once it is there, and whenever it is written in: what inserts goes there. */
  readonly onActive: (handle: WordsHandle) => void;
}) {
  const { label, single = false, value, invalid, describedBy, onChange, onActive } = props;
  // What the editor said last: a change from elsewhere (a mend, another text) is told from its own.
  const said = useRef(value);
  const editor = useEditor({
    extensions: [Document, Paragraph, Text, HardBreak, BulletList, ListItem, UndoRedo, FieldNode, TagNode],
    content: docOf(value) as JSONContent,
    injectCSS: false,
    immediatelyRender: true,
    onUpdate: ({ editor: of }) => {
      said.current = sourceOf(of.getJSON() as DocNode);
      onChange(said.current);
    },
  });
  useEffect(() => {
    editor.setOptions({
      editorProps: {
        attributes: {
          role: 'textbox',
          'aria-multiline': String(!single),
          'aria-label': label,
          'aria-invalid': String(invalid),
          ...(describedBy ? { 'aria-describedby': describedBy } : {}),
          class: single ? 'words field' : 'words field min-h-[240px] leading-relaxed',
        },
        // A subject is one line.
        handleKeyDown: (_view, event) => single && event.key === 'Enter',
      },
    });
  }, [editor, label, single, invalid, describedBy]);
  useEffect(() => {
    if (value === said.current) return;
    said.current = value;
    editor.commands.setContent(docOf(value) as JSONContent, { emitUpdate: false });
  }, [editor, value]);
  useEffect(() => {
    const handle: WordsHandle = {
      insertField: (name, fallback) =>
        void editor.chain().focus().insertContent({ type: 'field', attrs: { name, fallback } }).run(),
      insertCondition(field) {
        const { from, to } = editor.state.selection;
        const tag = (source: string) => ({ type: 'tag', attrs: { source } });
        // The end first, so that the place of the beginning still holds.
        editor
          .chain()
          .focus()
          .insertContentAt(to, tag('{% endif %}'))
          .insertContentAt(from, tag(`{% if ${field} %}`))
          .setTextSelection(to + 1)
          .run();
      },
    };
    if (!single) onActive(handle);
    const focused = () => onActive(handle);
    editor.on('focus', focused);
    return () => void editor.off('focus', focused);
  }, [editor, single, onActive]);
  return <EditorContent editor={editor} />;
}
