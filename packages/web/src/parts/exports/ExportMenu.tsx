/** Takes the table that is shown along as a file, with the filters that stand there. */
import type { ReactNode } from 'react';
import { DropdownMenu } from 'radix-ui';
import { csvText, fileNameOf, type ExportTable } from '@zest-bell/core/exports';
import { attempt } from '../../lib/attempt.ts';
import { Button } from '../../ui/Button.tsx';
import { menuItem } from '../../ui/menu.ts';
import { saveBytes, saveText } from '../../ui/save.ts';

interface ExportProps {
  /** What is exported: “42 students”. */
  readonly what: string;
  /** Made when somebody asks for it; absent where the server makes the files. */
  readonly table?: () => ExportTable;
  /** Further files. */
  readonly children?: ReactNode;
}

/** The files, as items of a menu. */
export function ExportItems({ what, table, children }: ExportProps) {
  const csv = (bom: boolean) => {
    const made = table!();
    saveText(`${fileNameOf(made.name)}.csv`, csvText(made, { bom }), 'text/csv');
  };
  const workbook = () =>
    void attempt(async () => {
      const { workbookOf } = await import('./workbook.ts');
      const { name, bytes } = await workbookOf(table!());
      saveBytes(name, bytes);
    });
  return (
    <>
      <DropdownMenu.Label className="px-3 py-1 text-[13px] text-ink-2">{what}</DropdownMenu.Label>
      {table && (
        <>
          <DropdownMenu.Item className={menuItem} onSelect={workbook}>
            Workbook (XLSX)
          </DropdownMenu.Item>
          <DropdownMenu.Item className={menuItem} onSelect={() => csv(false)}>
            Table (CSV)
          </DropdownMenu.Item>
          <DropdownMenu.Item className={menuItem} onSelect={() => csv(true)}>
            Table (CSV for older spreadsheets)
          </DropdownMenu.Item>
        </>
      )}
      {children}
    </>
  );
}

export const ExportMenu = ({
  look = 'plain',
  disabled = false,
  ...files
}: ExportProps & {
  /** On a dark bar. */
  readonly look?: 'dark' | 'plain';
  readonly disabled?: boolean;
}) => (
  <DropdownMenu.Root>
    <DropdownMenu.Trigger asChild disabled={disabled}>
      <Button look={look}>Export</Button>
    </DropdownMenu.Trigger>
    <DropdownMenu.Portal>
      <DropdownMenu.Content align="end" sideOffset={4} className="pop z-50 max-w-80 p-1.5">
        <ExportItems {...files} />
      </DropdownMenu.Content>
    </DropdownMenu.Portal>
  </DropdownMenu.Root>
);
