import { CloseButton, Dialog, Portal } from "@chakra-ui/react";
import { type ReactNode } from "react";
import { t } from "../texts/texts";

/** Modal is a window over the page; focus names what has the focus first. */
export function Modal({
  title,
  open,
  onClose,
  children,
  wide,
  focus,
  guarded,
}: {
  title: string;
  open: boolean;
  onClose(): void;
  children: ReactNode;
  wide?: boolean | "screen";
  focus?: string;
  /** a press beside it does not close it: something may be filled in */
  guarded?: boolean;
}) {
  return (
    <Dialog.Root
      initialFocusEl={focus ? () => document.querySelector<HTMLElement>(focus) : undefined}
      open={open}
      closeOnInteractOutside={!guarded}
      onOpenChange={(d) => !d.open && onClose()}
      size={wide === "screen" ? "xl" : wide ? "lg" : "md"}
    >
      <Portal>
        <Dialog.Backdrop bg="rgba(8,11,12,.6)" />
        <Dialog.Positioner>
          <Dialog.Content bg="panel" borderRadius="10px" maxW={wide === "screen" ? "94vw" : undefined}>
            <Dialog.Header pb="6px">
              <Dialog.Title fontSize="16px">{title}</Dialog.Title>
            </Dialog.Header>
            <Dialog.Body pb="18px">{children}</Dialog.Body>
            <Dialog.CloseTrigger asChild>
              <CloseButton size="sm" aria-label={t("Close")} />
            </Dialog.CloseTrigger>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}
