/** A message as a student reads it: drawn from its blocks, so that nothing a value says becomes markup. */
import { Fragment } from 'react';
import type { Block, Inline, MarkupLine } from '@zest-bell/core/wording';
import { pictureUrl } from './files.ts';

export interface ShownMessage {
  readonly subject: string;
  readonly text: string;
  readonly blocks?: readonly Block[];
}

export function MessageView(props: {
  readonly message: ShownMessage;
  readonly from: string;
  readonly to?: string;
  /** The course of its pictures. */
  readonly course?: number;
  /** Names of its attachments. */
  readonly files?: readonly string[];
}) {
  const { message, from, to, course, files = [] } = props;
  return (
    <article className="rounded-[18px] border border-line bg-sheet p-5 text-ink">
      <p className="text-[13px] text-ink-2">{from}</p>
      {to && <p className="text-[13px] break-words text-ink-3">to {to}</p>}
      <h3 className="mt-0.5 font-body text-[16px] font-bold break-words">{message.subject}</h3>
      {message.blocks ? (
        <div className="mt-3 grid gap-3 leading-[1.55] break-words">
          {message.blocks.map((block, i) => (
            <BlockView key={i} block={block} course={course} />
          ))}
        </div>
      ) : (
        <p className="mt-3 leading-[1.55] break-words whitespace-pre-line">{message.text}</p>
      )}
      {files.length > 0 && (
        <ul className="mt-4 flex flex-wrap gap-2 border-t border-line pt-3" aria-label="Attachments">
          {files.map((name) => (
            <li key={name} className="rounded-lg border border-line-strong px-2.5 py-1 text-[13.5px]">
              {name}
            </li>
          ))}
        </ul>
      )}
    </article>
  );
}

function BlockView({ block, course }: { readonly block: Block; readonly course: number | undefined }) {
  if (block.kind === 'list') {
    return (
      <ul className="list-disc pl-5">
        {block.items.map((item, i) => (
          <li key={i}>
            <LineView line={item} course={course} />
          </li>
        ))}
      </ul>
    );
  }
  return (
    <p>
      {block.lines.map((line, i) => (
        <Fragment key={i}>
          {i > 0 && <br />}
          <LineView line={line} course={course} />
        </Fragment>
      ))}
    </p>
  );
}

const LineView = ({ line, course }: { readonly line: MarkupLine; readonly course: number | undefined }) =>
  line.map((piece, i) => <Piece key={i} piece={piece} course={course} />);

function Piece({ piece, course }: { readonly piece: Inline; readonly course: number | undefined }) {
  if (piece.kind === 'link') {
    return (
      <a href={piece.url} target="_blank" rel="noreferrer" className="text-pine underline underline-offset-2">
        {piece.text}
      </a>
    );
  }
  if (piece.kind === 'picture') {
    return course === undefined ? (
      <span>[Picture: {piece.alt}]</span>
    ) : (
      <img src={pictureUrl(course, piece.file)} alt={piece.alt} className="max-w-full" />
    );
  }
  const text = piece.em ? <em>{piece.text}</em> : piece.text;
  return piece.strong ? <strong>{text}</strong> : <>{text}</>;
}
