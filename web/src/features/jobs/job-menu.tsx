import { DropdownMenu } from "radix-ui";
import type { JobLine } from "../../api/types";
import { MENU } from "./words";

interface Props {
  job: JobLine;
  /** Whether the person may change the list; somebody who does not may save a job as a file. */
  designs: boolean;
  onFile: () => void;
  onLinks: () => void;
  onArchive: () => void;
  onDelete: () => void;
}

const itemClass = "flex min-h-9 cursor-pointer items-center px-3 outline-none data-[highlighted]:bg-lit";

/** What can be done with a job of the list besides opening it. */
export function JobMenu({ job, designs, onFile, onLinks, onArchive, onDelete }: Props) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="min-h-8 px-2 text-faded hover:bg-lit" aria-label={`${MENU.open}: ${job.name}`}>
        {MENU.open}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={4}
          className="z-20 min-w-44 rounded-sm border border-hair bg-paper py-1 text-ink shadow-float"
        >
          <DropdownMenu.Item className={itemClass} onSelect={onFile}>
            {MENU.file}
          </DropdownMenu.Item>
          {designs && (
            <>
              <DropdownMenu.Item className={itemClass} onSelect={onLinks}>
                {MENU.links}
              </DropdownMenu.Item>
              <DropdownMenu.Item className={itemClass} onSelect={onArchive}>
                {job.archived ? MENU.back : MENU.archive}
              </DropdownMenu.Item>
              <DropdownMenu.Item className={`${itemClass} text-short`} onSelect={onDelete}>
                {MENU.remove}
              </DropdownMenu.Item>
            </>
          )}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
