import { Dialog } from "radix-ui";
import type { ReactNode } from "react";

export interface SheetProps {
  open: boolean;
  onClose: () => void;
  title: string;
  about?: string;
  wide?: boolean;
  children: ReactNode;
}

/** A sheet of paper laid over the spread: one question, closed with Escape. */
export function Sheet({ open, onClose, title, about, wide = false, children }: SheetProps) {
  return (
    <Dialog.Root open={open} onOpenChange={(next) => !next && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/40" />
        <Dialog.Content
          className={`fixed top-[10vh] left-1/2 z-50 max-h-[84vh] -translate-x-1/2 overflow-y-auto border border-ink bg-leaf p-5 shadow-[4px_4px_0_rgb(0_0_0/0.18)] ${
            wide ? "w-[min(860px,94vw)]" : "w-[min(520px,94vw)]"
          }`}
          {...(about ? {} : { "aria-describedby": undefined })}
        >
          <Dialog.Title className="text-[1.4rem]">{title}</Dialog.Title>
          {about && <Dialog.Description className="mt-1 text-soft">{about}</Dialog.Description>}
          <div className="mt-4">{children}</div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
