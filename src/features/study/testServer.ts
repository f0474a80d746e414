import { vi } from 'vitest';
import type { Inputs } from '@/core/model/study';
import type { ProjectView, VariantView } from '@/runtime/wire';
import { presentVariant, useStudy } from './store';
import { useBench } from './bench';

/** A server of variants in memory that answers the store's requests. */
export class TestServer {
  variants = new Map<string, VariantView>();
  requests: string[] = [];
  failNext = false;
  private n = 1;

  handle = async (url: string, init?: RequestInit): Promise<Response> => {
    const method = init?.method ?? 'GET';
    this.requests.push(`${method} ${url}`);
    if (this.failNext) {
      this.failNext = false;
      return Response.json({ message: 'refused', remedy: 'do it otherwise' }, { status: 422 });
    }
    const body = init?.body ? (JSON.parse(String(init.body)) as Record<string, unknown>) : {};
    if (method === 'POST' && url === '/api/variants') {
      const parent = this.variants.get(String(body.parentId)) as VariantView;
      const made = {
        ...parent,
        ...(body as Partial<VariantView>),
        id: `v${++this.n}`,
        createdAt: `2030-01-0${this.n}T00:00:00.000Z`,
      };
      made.inputs = (body.inputs as Inputs | undefined) ?? parent.inputs;
      this.variants.set(made.id, made);
      return Response.json(made);
    }
    const id = url.split('/').pop() ?? '';
    const now = this.variants.get(id) as VariantView;
    if (body.version !== now.version)
      return Response.json({ message: 'changed elsewhere', remedy: 'do it again', now }, { status: 409 });
    const changed = { ...now, ...(body as Partial<VariantView>), version: now.version + 1 };
    this.variants.set(id, changed);
    return Response.json(changed);
  };
}

export const variantOf = (inputs: Inputs): VariantView => ({
  id: 'v1',
  projectId: 'p',
  parentId: null,
  note: '',
  starred: false,
  colour: null,
  name: 'First',
  inputs,
  version: 1,
  createdAt: '2030-01-01T00:00:00.000Z',
});

/** Opens a study of these inputs on a server in memory, with nothing under way. For tests. */
export function openStudy(inputs: Inputs): TestServer {
  const server = new TestServer();
  const variant = variantOf(inputs);
  server.variants.set('v1', variant);
  vi.stubGlobal('fetch', server.handle);
  const memory = new Map<string, string>();
  vi.stubGlobal('localStorage', {
    getItem: (key: string) => memory.get(key) ?? null,
    setItem: (key: string, value: string) => memory.set(key, value),
    removeItem: (key: string) => memory.delete(key),
  });
  const view: ProjectView = { project: { id: 'p', name: 'Project' }, variants: [variant], runs: [], geometries: [] };
  useStudy.getState().load(view);
  useBench.setState({ aim: null });
  return server;
}

export const present = () => presentVariant(useStudy.getState());
export const settle = () => new Promise((resolve) => setTimeout(resolve, 20));
/** Takes the last step back; the inputs before it stand again. */
export const undo = () => useStudy.getState().undo();
