// A dialog that asks for a name. It has the keys from the first moment: what is typed while it opens goes into its field.
import { Input, type InputRef, Modal } from 'antd';
import { type ReactNode, useEffect, useRef, useState } from 'react';

export function NameDialog({
  title,
  name,
  label,
  id,
  save,
  close,
  children,
}: {
  title: string;
  name: string;
  /** what the field is called */
  label: string;
  id: string;
  save: (name: string) => void;
  close: () => void;
  children?: ReactNode;
}) {
  const [now, setNow] = useState(name);
  const field = useRef<InputRef>(null);
  const inside = useRef<HTMLDivElement>(null);
  useEffect(() => {
    field.current?.focus({ cursor: 'all' });
    const keep = (e: KeyboardEvent) => {
      if (e.target instanceof Node && inside.current?.closest('.ant-modal')?.contains(e.target)) return;
      field.current?.focus({ cursor: 'all' }); // the key goes on to the field
      e.stopImmediatePropagation();
      if (e.key === 'Escape') close();
    };
    window.addEventListener('keydown', keep, true);
    return () => window.removeEventListener('keydown', keep, true);
  }, [close]);
  const done = () => {
    if (now.trim() !== '') save(now.trim());
  };
  return (
    <Modal
      open
      title={title}
      okText="Save"
      width={380}
      onCancel={close}
      onOk={done}
      okButtonProps={{ disabled: now.trim() === '' }}
      afterOpenChange={(open) => {
        if (open && document.activeElement !== field.current?.input) field.current?.focus({ cursor: 'all' });
      }}
    >
      <div ref={inside}>
        <Input
          ref={field}
          value={now}
          aria-label={label}
          data-id={id}
          maxLength={100}
          onChange={(e) => setNow(e.target.value)}
          onPressEnter={done}
        />
        {children}
      </div>
    </Modal>
  );
}
