/** Each control of `ui/` once, with its use: the picture in docs/controls.md is made of it. */
import type { ReactNode } from 'react';
import { StaticRouter } from 'react-router';
import { Button, LinkButton } from '../ui/Button.tsx';
import { Chip } from '../ui/Chip.tsx';
import { Check, Choice, Labelled } from '../ui/fields.tsx';
import { Figures } from '../ui/Figures.tsx';
import { Markable } from '../ui/Markable.tsx';
import { PageTabs, PartTabs } from '../ui/PageTabs.tsx';
import { Pill } from '../ui/Pill.tsx';
import { PlainTable } from '../ui/PlainTable.tsx';
import { Segments } from '../ui/Segments.tsx';

const nothing = (): void => undefined;

const Row = ({
  name,
  use,
  children,
}: {
  readonly name: string;
  readonly use: string;
  readonly children: ReactNode;
}) => (
  <tr className="border-t border-line align-middle">
    <th scope="row" className="w-44 py-2.5 pr-4 text-left text-[15px] font-semibold">
      {name}
    </th>
    <td className="w-80 py-2.5 pr-6 text-[14px] text-ink-2">{use}</td>
    <td className="py-2.5">{children}</td>
  </tr>
);

export const Controls = () => (
  <StaticRouter location="/c/1/replay">
    <main className="w-[1180px] bg-fog p-6">
      <table className="w-full rounded-[16px] bg-sheet">
        <tbody className="[&>tr>*:first-child]:pl-5 [&>tr>*:last-child]:pr-5">
          <Row name="Tabs" use="The pages of a place">
            <PageTabs
              label="Pages"
              base="/c/1/replay"
              tabs={[
                { path: '', name: 'Replay' },
                { path: '/who-it-found', name: 'Who it found' },
              ]}
            />
          </Row>
          <Row name="Tabs of parts" use="The parts of one page, which have no address of their own">
            <PartTabs
              label="Parts"
              value="timeline"
              tabs={[
                { value: 'timeline', name: 'Timeline' },
                { value: 'grades', name: 'Work and grades' },
              ]}
              onChange={nothing}
            />
          </Row>
          <Row name="Segments" use="Scope, or how the same is shown: one of them always holds">
            <Segments
              label="Span"
              value="soFar"
              segments={[
                { value: 'soFar', words: 'So far' },
                { value: 'term', words: 'Term' },
              ]}
              onChange={nothing}
            />
          </Row>
          <Row name="Pill" use="A filter, on or off; a search never takes one away">
            <span className="flex gap-1.5">
              <Pill pressed onClick={nothing}>
                All nudges 97
              </Pill>
              <Pill pressed={false} onClick={nothing}>
                sent 91
              </Pill>
            </span>
          </Row>
          <Row name="Main button" use="The one thing to do first on a screen or in a dialog">
            <Button look="main">Turn on</Button>
          </Row>
          <Row name="Button" use="Every other command: a rectangle, 32 px high">
            <span className="flex gap-2">
              <Button>Rehearse</Button>
              <LinkButton to="/">Mail merge from a sheet</LinkButton>
              <Button disabled>Save</Button>
              <Button busy>Export</Button>
            </span>
          </Row>
          <Row name="Quiet button" use="A command within a list or a form; its words line up with its column">
            <Button look="quiet">Remove this condition</Button>
          </Row>
          <Row name="Marked words" use="A part of a sentence that opens where it stands">
            <span className="font-head text-[19px]">
              who have <Markable label="Condition">not visited the course for 5 days</Markable>
            </span>
          </Row>
          <Row name="Chip" use="One word about a row; a sentence is never in a chip">
            <span className="flex gap-2">
              <Chip tone="zest">would be nudged</Chip>
              <Chip tone="iris">waits for you</Chip>
              <Chip tone="quiet">limit reached</Chip>
              <Chip tone="tangerine">matches for 2 more hours</Chip>
              <Chip tone="brass">no longer matches</Chip>
            </span>
          </Row>
          <Row name="Figures" use="Two or three numbers that answer the question of the screen, of one size">
            <Figures
              figures={[
                { n: 2, words: 'of 42 match now' },
                { n: 0, words: 'would be nudged Tue Oct 27, 10:15 AM' },
              ]}
            />
          </Row>
          <Row name="Table" use="Numbers on the right, with one number of decimals in a column and units in the head">
            <PlainTable
              label="Scores"
              columns={[{ name: 'Item' }, { name: 'Graded', right: true }, { name: 'Mean, %', right: true }]}
              rows={[
                { key: '1', head: 'Tide tables quiz', cells: ['41', '71.3'] },
                { key: '2', head: 'Chart lab 1', cells: ['9', '88.0'] },
              ]}
            />
          </Row>
          <Row name="Field" use="36 px high, its label above, its problem below">
            <Labelled label="Title" problem="Give the course a title">
              {(id) => <input id={id} aria-invalid className="field w-72" defaultValue="" />}
            </Labelled>
          </Row>
          <Row name="Check and choice" use="Yes or no; one of a few that exclude each other">
            <span className="flex gap-8">
              <Check label="Only students of the next check (3)" checked onChange={nothing} />
              <Choice name="who" label="Every student who matches" checked onChoose={nothing} />
            </span>
          </Row>
        </tbody>
      </table>
    </main>
  </StaticRouter>
);
