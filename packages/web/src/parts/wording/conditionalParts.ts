/** Shows what is under a condition as one block, from the chip that begins it to the one that ends it. */
import { Extension } from '@tiptap/core';
import type { Node } from '@tiptap/pm/model';
import { Plugin, PluginKey } from '@tiptap/pm/state';
import { Decoration, DecorationSet } from '@tiptap/pm/view';
import { partOf } from './liquidDoc.ts';

export const ConditionalParts = Extension.create({
  name: 'conditionalParts',
  addProseMirrorPlugins: () => [
    new Plugin({
      key: new PluginKey('conditionalParts'),
      props: { decorations: (state) => DecorationSet.create(state.doc, partsOf(state.doc)) },
    }),
  ],
});

/** One decoration for each outermost conditional part; one that is never ended reaches to the end. */
function partsOf(doc: Node): Decoration[] {
  const found: Decoration[] = [];
  let depth = 0;
  let from = 0;
  doc.descendants((node, at) => {
    if (node.type.name !== 'tag') return;
    const part = partOf(String(node.attrs['source']));
    if (part === 'begins' && depth++ === 0) from = at;
    if (part === 'ends' && depth > 0 && --depth === 0) found.push(conditional(from, at + node.nodeSize));
  });
  if (depth > 0) found.push(conditional(from, doc.content.size));
  return found;
}

const conditional = (from: number, to: number) => Decoration.inline(from, to, { class: 'conditional' });
