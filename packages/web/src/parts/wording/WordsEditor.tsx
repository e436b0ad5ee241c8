/** The text of a message with its merge fields, conditions, links and pictures as chips. */
import { useEffect, useRef } from 'react';
import { isNodeSelection, Node as TiptapNode, mergeAttributes, type JSONContent } from '@tiptap/core';
import { Bold } from '@tiptap/extension-bold';
import { Document } from '@tiptap/extension-document';
import { HardBreak } from '@tiptap/extension-hard-break';
import { Italic } from '@tiptap/extension-italic';
import { BulletList, ListItem } from '@tiptap/extension-list';
import { Paragraph } from '@tiptap/extension-paragraph';
import { Text } from '@tiptap/extension-text';
import { UndoRedo } from '@tiptap/extensions';
import { EditorContent, ReactNodeViewRenderer, useEditor, type Editor } from '@tiptap/react';
import { FieldChip, LinkChip, PictureChip, TagChip } from './chips.tsx';
import { ConditionalParts } from './conditionalParts.ts';
import { docOf, sourceOf, type DocNode } from './liquidDoc.ts';

/** A chip: one piece of the line that is chosen, moved and deleted as a whole. */
const chip = (name: string, attributes: Readonly<Record<string, string | null>>, view: typeof FieldChip) =>
  TiptapNode.create({
    name,
    group: 'inline',
    inline: true,
    atom: true,
    addAttributes: () =>
      Object.fromEntries(Object.entries(attributes).map(([key, value]) => [key, { default: value }])),
    parseHTML: () => [{ tag: `span[data-${name}]` }],
    renderHTML: ({ HTMLAttributes }) => ['span', mergeAttributes(HTMLAttributes, { [`data-${name}`]: '' })],
    addNodeView: () => ReactNodeViewRenderer(view, { as: 'span' }),
  });

const CHIPS = [
  chip('field', { name: '', fallback: null }, FieldChip),
  chip('tag', { source: '' }, TagChip),
  chip('weblink', { words: '', url: '' }, LinkChip),
  chip('picture', { file: '', alt: '' }, PictureChip),
];

/** What the rest of the dialog may do with the text. */
export interface WordsHandle {
  insertField(name: string, fallback: string | null): void;
  /** A field that has lines of its own: a list is in a paragraph on its own. */
  insertList(name: string, fallback: string | null): void;
  /** Puts what is selected, or what is typed next, under a condition. */
  insertCondition(field: string): void;
  insertLink(words: string, url: string): void;
  insertPicture(file: string, alt: string): void;
  toggle(what: 'bold' | 'italic' | 'list'): void;
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
    extensions: [
      Document,
      Paragraph,
      Text,
      HardBreak,
      BulletList,
      ListItem,
      UndoRedo,
      Bold,
      Italic,
      ConditionalParts,
      ...CHIPS,
    ],
    content: docOf(value) as JSONContent,
    injectCSS: false,
    immediatelyRender: true,
    // What is inserted before anybody wrote goes where a message begins.
    onCreate: ({ editor: made }) =>
      void made.commands.setTextSelection(single ? made.state.doc.content.size - 1 : placeToWrite(made)),
    onUpdate: ({ editor: changed }) => {
      said.current = sourceOf(changed.getJSON() as DocNode);
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
          class: single ? 'words field' : 'words field min-h-[220px] leading-relaxed',
        },
        // A click beside the text is meant for the message, not for what is behind the signature.
        handleDOMEvents: {
          mousedown: (view, event) => {
            if (single || event.target !== view.dom) return false;
            event.preventDefault();
            editor.commands.setTextSelection(placeToWrite(editor));
            view.focus();
            return true;
          },
        },
        handleKeyDown(view, event) {
          if (event.key !== 'Enter') return false;
          const { selection } = view.state;
          const chosen = isNodeSelection(selection) ? view.nodeDOM(selection.from) : null;
          if (chosen instanceof HTMLElement) {
            chosen.querySelector('button')?.click();
            return true;
          }
          // A subject is one line.
          return single;
        },
      },
    });
  }, [editor, label, single, invalid, describedBy]);
  useEffect(() => {
    if (value === said.current) return;
    said.current = value;
    editor.commands.setContent(docOf(value) as JSONContent, { emitUpdate: false });
  }, [editor, value]);
  useEffect(() => {
    const handle = handleOf(editor);
    if (!single) onActive(handle);
    const focused = () => onActive(handle);
    editor.on('focus', focused);
    return () => void editor.off('focus', focused);
  }, [editor, single, onActive]);
  return <EditorContent editor={editor} />;
}

/** Where a message is written: the first empty paragraph, else the end of what comes before the signature, else the end. */
function placeToWrite(editor: Editor): number {
  const { doc } = editor.state;
  let empty: number | null = null;
  let before: number | null = null;
  let signed: number | null = null;
  doc.forEach((node, offset) => {
    if (empty === null && node.type.name === 'paragraph' && node.content.size === 0) empty = offset + 1;
    const isSignature = node.childCount === 1 && node.firstChild?.attrs['name'] === 'sender.signature';
    if (isSignature) signed ??= before;
    before = offset + node.nodeSize - 1;
  });
  return empty ?? signed ?? Math.max(1, doc.content.size - 1);
}

function handleOf(editor: Editor): WordsHandle {
  const insert = (type: string, attrs: object) => void editor.chain().focus().insertContent({ type, attrs }).run();
  return {
    insertField: (name, fallback) => insert('field', { name, fallback }),
    insertList(name, fallback) {
      const field = { type: 'field', attrs: { name, fallback } };
      const lone = editor.state.selection.$from.parent.content.size === 0;
      const content = lone ? field : { type: 'paragraph', content: [field] };
      editor.chain().focus().insertContent(content).run();
    },
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
    insertLink: (words, url) => insert('weblink', { words, url }),
    insertPicture: (file, alt) => insert('picture', { file, alt }),
    toggle(what) {
      const chain = editor.chain().focus();
      if (what === 'bold') chain.toggleBold().run();
      else if (what === 'italic') chain.toggleItalic().run();
      else chain.toggleBulletList().run();
    },
  };
}
