'use client';
import { Button, Drawer, Form, Input } from 'antd';
import { useRouter } from 'next/navigation';
import { useState, useTransition } from 'react';
import type { ErrorData } from '@/core/errors';
import { ErrorNote } from '@/ui/error-note';
import { addHandsetAction } from './actions';

interface Fields {
  readonly name: string;
  readonly text: string;
}

/** A handset is put on the bench by what it prints: nothing is typed that can be read. */
export function AddHandset({ primary = false }: { primary?: boolean }) {
  const router = useRouter();
  const [open, setOpen] = useState(false);
  const [error, setError] = useState<ErrorData | null>(null);
  const [busy, startTransition] = useTransition();
  const submit = (fields: Fields) =>
    startTransition(async () => {
      const result = await addHandsetAction(fields);
      if (!result.ok) return setError(result.error);
      setOpen(false);
      router.push(`/handsets/${result.value}`);
    });
  return (
    <>
      <Button type={primary ? 'primary' : 'default'} onClick={() => setOpen(true)}>
        Put a handset on the bench
      </Button>
      <Drawer
        open={open}
        onClose={() => setOpen(false)}
        title="Put a handset on the bench"
        size={520}
        destroyOnHidden
      >
        <p className="soft" style={{ marginBottom: 12 }}>
          Only your own devices. What the maker, the carrier, your employer and the law where you live allow
          comes first.
        </p>
        <Form<Fields> layout="vertical" onFinish={submit} requiredMark={false}>
          <Form.Item
            name="name"
            label="What you call it"
            rules={[
              { required: true, message: 'Give the handset a name.' },
              { max: 60, message: 'Keep the name under 60 characters.' },
            ]}
          >
            <Input autoFocus placeholder="North gate counter" />
          </Form.Item>
          <Form.Item
            name="text"
            label="What it printed"
            rules={[{ required: true, message: 'Paste what the handset printed.' }]}
            extra="The property dump of the running system, or all bootloader variables. The serial is kept apart from everything else."
          >
            <Input.TextArea
              rows={12}
              className="mono"
              spellCheck={false}
              placeholder="[ro.build.fingerprint]: […]"
            />
          </Form.Item>
          {error ? <ErrorNote error={error} onDismiss={() => setError(null)} /> : null}
          <Button type="primary" htmlType="submit" loading={busy}>
            Read it and put it on the bench
          </Button>
        </Form>
      </Drawer>
    </>
  );
}
