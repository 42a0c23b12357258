import type { ChildProcess } from 'node:child_process';

export type StackEnvironment = Record<string, string | undefined> & { ETERNO_DATA: string };
export const DEMO_NOW: string;
export function environment(dataDir: string, extra?: Record<string, string>): StackEnvironment;
export function makeDemo(env: StackEnvironment): void;
export function migrate(env: StackEnvironment): void;
export function fillBench(env: StackEnvironment, handsets: number, months: number): void;
export function freePort(): Promise<number>;
export function startStandIn(env: StackEnvironment): Promise<ChildProcess>;
export function startDownloadPage(env: StackEnvironment): Promise<ChildProcess> | null;
export function startServer(env: StackEnvironment, port: number): Promise<ChildProcess>;
export function startServerSomewhere(env: StackEnvironment): Promise<{ port: number; server: ChildProcess }>;
export function stop(child: ChildProcess): Promise<void>;
export function stopStandIn(env: StackEnvironment): Promise<void>;
