import { useState, type ReactNode } from 'react';
import { Dialog as AriaDialog, Heading, Modal, ModalOverlay } from 'react-aria-components';
import styled from 'styled-components';
import { theme } from '../theme.ts';
import { Button } from './controls.tsx';

const Overlay = styled(ModalOverlay)`
  position: fixed;
  inset: 0;
  background: rgb(40 40 38 / 45%);
  display: grid;
  place-items: center;
  z-index: 50;
  padding: 20px;
`;
const Sheet = styled(Modal)<{ $wide?: boolean }>`
  width: min(${({ $wide }) => ($wide ? '760px' : '480px')}, 100%);
  max-height: 90vh;
  overflow: auto;
  background: ${theme.sheet};
  border: 1px solid ${theme.ruleStrong};
  border-radius: 4px;
  section {
    padding: 20px 24px 22px;
    display: grid;
    gap: 16px;
    outline: none;
  }
`;

/** A sheet above the page. */
export function Dialog({
  title,
  isOpen,
  onClose,
  wide,
  children,
}: {
  title: string;
  isOpen: boolean;
  onClose(): void;
  wide?: boolean;
  children: ReactNode;
}) {
  return (
    <Overlay isOpen={isOpen} onOpenChange={(open) => !open && onClose()} isDismissable>
      <Sheet $wide={wide}>
        <AriaDialog>
          <Heading slot="title" level={2} style={{ fontSize: 18 }}>
            {title}
          </Heading>
          {children}
        </AriaDialog>
      </Sheet>
    </Overlay>
  );
}

/** Asks before something is done that cannot be undone. */
export function Confirm({
  title,
  doing,
  isOpen,
  onClose,
  onConfirm,
  children,
}: {
  title: string;
  /** on the button that does it */
  doing: string;
  isOpen: boolean;
  onClose(): void;
  /** rejects with what went wrong, in words */
  onConfirm(): Promise<unknown>;
  children: ReactNode;
}) {
  const [refusal, setRefusal] = useState<string | null>(null);
  return (
    <Dialog title={title} isOpen={isOpen} onClose={onClose}>
      {children}
      {refusal && <p role="alert">{refusal}</p>}
      <div style={{ display: 'flex', gap: 8, justifyContent: 'end' }}>
        <Button onPress={onClose}>Keep it</Button>
        <Button kind="danger" onPress={() => void onConfirm().then(onClose, (e: Error) => setRefusal(e.message))}>
          {doing}
        </Button>
      </div>
    </Dialog>
  );
}
