/** Runs once when the server starts, before it answers. */
export async function register(): Promise<void> {
  if (process.env.NEXT_RUNTIME !== 'nodejs') return;
  const { recover } = await import('./server/services/recover');
  await recover();
  const { watchPage } = await import('./server/services/download-page');
  watchPage();
}
