'use client';
import { Button, Drawer, Form, Input, Segmented, Upload } from 'antd';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { Outcome } from '@/contracts/outcome';
import { LIMITS } from '@/core/limits';
import { ErrorNote } from '@/ui/error-note';
import { useAct } from '@/ui/use-act';
import { addHandsetAction, addTypedHandsetAction } from './actions';

/** A handset is put on the bench by what it prints, or by what its owner types, marked as said. */
export function AddHandset({ primary = false }: { primary?: boolean }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button type={primary ? 'primary' : 'default'} onClick={() => setOpen(true)}>
        Put a handset on the bench
      </Button>
      <Drawer
        open={open}
        onClose={() => setOpen(false)}
        title="Put a handset on the bench"
        size={560}
        destroyOnHidden
      >
        <AddForm close={() => setOpen(false)} />
      </Drawer>
    </>
  );
}

const PRINTED = 'I have what it prints';
const TYPED = 'I have nothing to paste';
type Way = typeof PRINTED | typeof TYPED;

interface Fields {
  readonly name: string;
  readonly text: string;
  readonly model: string;
  readonly build?: string;
}

function AddForm({ close }: { readonly close: () => void }) {
  const router = useRouter();
  const [way, setWay] = useState<Way>(PRINTED);
  const { act, busy, error, dismiss } = useAct();
  const submit = ({ name, text, model, build = '' }: Fields) =>
    act(
      (): Promise<Outcome<string>> =>
        way === PRINTED ? addHandsetAction({ name, text }) : addTypedHandsetAction({ name, model, build }),
      (id) => {
        close();
        router.push(`/handsets/${id}`);
      },
    );
  return (
    <>
      <p className="soft" style={{ marginBottom: 12 }}>
        Only your own devices. What the maker, the carrier, your employer and the law where you live allow
        comes first.
      </p>
      <Segmented<Way>
        aria-label="How is it put on the bench?"
        options={[PRINTED, TYPED]}
        value={way}
        onChange={setWay}
        style={{ marginBottom: 14 }}
      />
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
        {way === PRINTED ? <Printed /> : <Typed />}
        {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
        <Button type="primary" htmlType="submit" loading={busy}>
          {way === PRINTED ? 'Read it and put it on the bench' : 'Put it on the bench as said'}
        </Button>
      </Form>
    </>
  );
}

/** How the text is got, for each that can tell. */
const WITNESSES = [
  ['On the handset itself', 'in a terminal app, type', 'getprop'],
  ['Over debugging', 'with your own tool on this computer, open a shell on the handset and type', 'getprop'],
  ['In its bootloader', 'with your own tool on this computer, print all variables of the bootloader', null],
] as const;

function Printed() {
  const form = Form.useFormInstance<Fields>();
  const take = (file: File) => {
    if (file.size <= LIMITS.factsTextBytes)
      void file.text().then((text) => form.setFieldValue('text', text.replaceAll('\u0000', '')));
    else form.setFields([{ name: 'text', errors: ['That is longer than any handset prints.'] }]);
    return false;
  };
  return (
    <>
      <ul className="small" style={{ margin: '0 0 10px', paddingLeft: 18 }}>
        {WITNESSES.map(([where, how, command]) => (
          <li key={where}>
            <b>{where}</b>: {how} {command ? <span className="mono">{command}</span> : null}
          </li>
        ))}
      </ul>
      <Form.Item
        name="text"
        label="What it printed"
        rules={[{ required: true, message: 'Paste what the handset printed.' }]}
        extra="All of it, or as much as you have. The serial is kept apart from everything else."
      >
        <Input.TextArea
          rows={10}
          className="mono"
          spellCheck={false}
          placeholder="[ro.build.fingerprint]: […]"
        />
      </Form.Item>
      <Upload.Dragger
        accept=".txt,.log,text/plain"
        showUploadList={false}
        beforeUpload={take}
        style={{ marginBottom: 14 }}
      >
        <span className="small">Or drop the file here that it was printed into</span>
      </Upload.Dragger>
    </>
  );
}

function Typed() {
  return (
    <>
      <Form.Item
        name="model"
        label="Model"
        rules={[{ required: true, message: 'Say which model it is.' }]}
        extra="As it stands on its box or in its settings."
      >
        <Input maxLength={80} />
      </Form.Item>
      <Form.Item
        name="build"
        label="Build number, if you know it"
        extra="As its settings show it. It counts as said: before anything is written the handset has to show it."
      >
        <Input maxLength={120} className="mono" />
      </Form.Item>
    </>
  );
}
