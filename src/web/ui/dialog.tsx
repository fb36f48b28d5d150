import type { ReactNode } from 'react';
import { Dialog as AriaDialog, Heading, Modal, ModalOverlay } from 'react-aria-components';
import styled from 'styled-components';
import { theme } from '../theme.ts';

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
