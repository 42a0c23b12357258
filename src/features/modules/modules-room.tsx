'use client';
import type { ModulesView } from '@/contracts/module-view';
import { BeforeUpdate } from './before-update';
import { Matrix } from './matrix';
import { ModuleShelf } from './module-shelf';
import styles from './modules.module.css';

/** Modules: what to switch off before the next update, what they hold, and how each did on which build. */
export function ModulesRoom({ view }: { readonly view: ModulesView }) {
  const { before, handset } = view;
  const off = before?.modules.filter((one) => one.off).length ?? 0;
  const build = before ? view.matrix.columns.find((column) => column.buildId === before.to) : undefined;
  const title = !before
    ? 'Modules'
    : off === 0
      ? `All ${before.modules.length} modules of ${handset!.name} may stay on.`
      : `Switch off ${off} of ${handset!.name}’s ${before.modules.length} modules first.`;
  return (
    <div className={styles.room}>
      <h1>{title}</h1>
      <BeforeUpdate key={`${handset?.id}${view.caution}${view.limit}`} view={view} />
      <ModuleShelf view={view} />
      <Matrix key={build?.product ?? ''} matrix={view.matrix} product={build?.product ?? null} />
    </div>
  );
}
