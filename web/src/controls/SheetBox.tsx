import { Dialog } from "radix-ui";
import { set } from "../state/store";

/** A dialog on its sheet of paper. */
export function SheetBox({
  title,
  children,
  wide,
  onLeave,
}: {
  title: string;
  children: React.ReactNode;
  wide?: number;
  onLeave?: () => void;
}) {
  return (
    <Dialog.Root
      open
      onOpenChange={(o) => !o && (onLeave ? onLeave() : set({ dialog: null, confirm: null }))}
    >
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/25" />
        <Dialog.Content
          className="sheetbox"
          style={{ width: wide ?? 420 }}
          aria-describedby={undefined}
        >
          <Dialog.Title
            className={"mb-2 border-b border-ink pb-1 font-show text-[18px] font-semibold italic"}
          >
            {title}
          </Dialog.Title>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
