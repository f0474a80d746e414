'use client';

import { formatRelative } from '../ui/relativeTime';
import { ArrowRight, Plus } from 'lucide-react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { api } from '../study/api';
import { tell } from '../study/store';
import { Button } from '../ui/controls';
import { BellowsMark } from './BellowsMark';

interface Project {
  id: string;
  name: string;
  nVariants: number;
  changedAt: string;
}

export function StartPage({ projects }: { projects: Project[] }) {
  const router = useRouter();
  const [name, setName] = useState('');
  const [busy, setBusy] = useState(false);
  const create = async () => {
    setBusy(true);
    try {
      const project = await api.createProject(name.trim() || 'New project');
      router.push(`/project/${project.id}`);
    } catch (error) {
      tell(error);
      setBusy(false);
    }
  };
  return (
    <main className="mx-auto grid min-h-screen max-w-5xl grid-cols-[1fr_1.25fr] items-center gap-16 px-10">
      <section>
        <BellowsMark size={52} />
        <h1 className="mt-5 text-[34px] leading-tight font-semibold tracking-tight">Bellows</h1>
        <p className="text-soft mt-3 text-[15px] leading-relaxed">
          See how the melt fills your part before the tool is built. Bring in a closed shape, place a gate, press Run:
          the answer says whether it fills, at what pressure, and what to change.
        </p>
      </section>
      <section className="bg-sheet rounded-lg border p-6">
        <h2 className="font-semibold">Projects</h2>
        <ul className="mt-3 divide-y border-y">
          {projects.map((p) => (
            <li key={p.id}>
              <Link
                href={`/project/${p.id}`}
                className="hover:bg-well group -mx-2 flex items-center gap-3 rounded px-2 py-3"
              >
                <span className="min-w-0 flex-1">
                  <span className="block truncate font-medium">{p.name}</span>
                  <span className="text-soft" suppressHydrationWarning>
                    {p.nVariants} {p.nVariants === 1 ? 'variant' : 'variants'}, changed {formatRelative(p.changedAt)}
                  </span>
                </span>
                <ArrowRight size={15} className="text-soft group-hover:text-copper" />
              </Link>
            </li>
          ))}
          {projects.length === 0 && <li className="text-soft py-3">No project yet. Name the first one below.</li>}
        </ul>
        <form
          className="mt-5 flex gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            void create();
          }}
        >
          <input
            aria-label="Name of the new project"
            placeholder="Name of a new project"
            maxLength={80}
            value={name}
            onChange={(e) => setName(e.target.value)}
            className="bg-paper placeholder:text-soft h-8 flex-1 rounded border px-2.5"
          />
          <Button look="primary" type="submit" className="h-8" disabled={busy}>
            <Plus size={14} /> Create
          </Button>
        </form>
      </section>
    </main>
  );
}
