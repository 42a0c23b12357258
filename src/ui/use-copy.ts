'use client';
import { App } from 'antd';

/** Puts a text on the clipboard, and says whether the browser let it. */
export function useCopy(): (text: string) => void {
  const { message } = App.useApp();
  return (text) =>
    void navigator.clipboard.writeText(text).then(
      () => message.info('Copied'),
      () => message.warning('The browser did not let it be copied'),
    );
}
