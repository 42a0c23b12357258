'use client';
import { Button } from 'antd';

/** A room that failed: said plainly, with a way on. */
export default function RoomError({ error, reset }: { error: Error; reset: () => void }) {
  return (
    <div style={{ padding: '40px 28px', maxWidth: 640 }}>
      <h1>This room could not be shown.</h1>
      <p style={{ margin: '8px 0 16px' }}>
        What was done before it stands in the round and in the log. {error.message}
      </p>
      <Button type="primary" onClick={reset}>
        Try again
      </Button>
    </div>
  );
}
