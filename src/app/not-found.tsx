import { Link } from '@/ui/link';

export default function NotFound() {
  return (
    <div style={{ padding: '40px 28px' }}>
      <h1>There is nothing here.</h1>
      <p style={{ marginTop: 8 }}>
        It may have been renamed or never kept. <Link href="/">Back to the bench</Link>
      </p>
    </div>
  );
}
