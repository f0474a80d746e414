'use client';

import { ArrowLeft, ChevronRight, Signpost, X } from 'lucide-react';
import { Dialog } from 'radix-ui';
import { useEffect, useRef } from 'react';
import { HELP, helpFound, type HelpEntry, type HelpKind } from '@/core/help/help';
import { format, reworded } from '@/core/units/reader';
import { Button, SectionTitle } from '../ui/controls';
import { SearchField } from '../ui/SearchField';
import { GUIDE, startGuide, useGuide } from './guide';
import { showHelp, useHelp } from '../ui/help';
import { Terms } from '../ui/Terms';

const KINDS: { kind: HelpKind; title: string; one: string }[] = [
  { kind: 'input', title: 'Inputs', one: 'Input' },
  { kind: 'field', title: 'Fields of a result', one: 'Field' },
  { kind: 'constant', title: 'Constants of materials', one: 'Constant' },
  { kind: 'term', title: 'Words', one: 'Word' },
];

/** Settings, fields and words with what each means and what to do about it; it stays beside the work. */
export function HelpPanel() {
  const { open, id, asked } = useHelp();
  const entry = HELP.find((e) => e.id === id) ?? null;
  const list = useRef<HTMLDivElement>(null);
  useEffect(() => {
    // What it returns is no cleaning up.
    void list.current?.scrollTo(0, 0);
  }, [id, asked]);
  const close = () => useHelp.setState({ open: false });
  return (
    <Dialog.Root modal={false} open={open} onOpenChange={(on) => !on && close()}>
      <Dialog.Portal>
        <Dialog.Content
          aria-describedby={undefined}
          // What is explained is worked with meanwhile.
          onInteractOutside={(e) => e.preventDefault()}
          className="bg-sheet fixed top-[44px] right-0 bottom-0 z-30 flex w-[340px] max-w-[90vw] flex-col border-l shadow-xl outline-none"
        >
          <div className="flex items-center gap-2 px-4 pt-3 pb-2">
            {entry && (
              <button
                type="button"
                aria-label="Back to the list"
                title="Back to the list"
                className="text-soft hover:text-ink -ml-1 p-1"
                onClick={() => useHelp.setState({ id: null })}
              >
                <ArrowLeft size={15} />
              </button>
            )}
            <Dialog.Title className="flex-1 text-[15px] font-semibold">Help</Dialog.Title>
            <Dialog.Close aria-label="Close the help" className="text-soft hover:text-ink p-1">
              <X size={15} />
            </Dialog.Close>
          </div>
          <div className="border-b px-4 pb-3">
            <SearchField
              label="Search the help"
              placeholder="Input, field, constant or word"
              value={asked}
              onChange={(next) => useHelp.setState({ asked: next, id: null })}
              onEnter={() => {
                const [first] = helpFound(asked);
                if (first) useHelp.setState({ id: first.id });
              }}
            />
          </div>
          <div ref={list} className="min-h-0 flex-1 overflow-y-auto px-4 py-3" data-testid="help">
            {entry ? <Entry entry={entry} /> : <List asked={asked} />}
            {!entry && !asked && <GuideOffer />}
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Entry({ entry }: { entry: HelpEntry }) {
  const { id, kind, title, means, use, formula, source, input } = entry;
  return (
    <article aria-label={title}>
      <p className="text-soft text-[12px]">{KINDS.find((k) => k.kind === kind)!.one}</p>
      <h2 className="text-[17px] leading-snug font-semibold">{title}</h2>
      <p className="mt-2">
        <Terms own={id}>{reworded(means)}</Terms>
      </p>
      {use && (
        <>
          <SectionTitle>{kind === 'input' ? 'What it does' : 'What to do about it'}</SectionTitle>
          <p>
            <Terms own={id}>{reworded(use)}</Terms>
          </p>
        </>
      )}
      {input && <Limits input={input} />}
      {formula && (
        <>
          <SectionTitle>How it is worked out</SectionTitle>
          <p className="bg-well rounded px-2.5 py-2 font-mono text-[12px] leading-relaxed">{formula}</p>
        </>
      )}
      {source && (
        <>
          <SectionTitle>Source</SectionTitle>
          <p className="text-soft">{source}</p>
        </>
      )}
    </article>
  );
}

function GuideOffer() {
  const at = useGuide((s) => s.at);
  return (
    <Button
      className="mt-5 w-full"
      onClick={() => {
        useHelp.setState({ open: false });
        void startGuide();
      }}
    >
      <Signpost size={13} /> {at ? `Guide: go on at step ${at + 1} of ${GUIDE.length}` : 'Guide through a first job'}
    </Button>
  );
}

function Limits({ input: { unit, min, max, above, otherwise } }: { input: NonNullable<HelpEntry['input']> }) {
  return (
    <>
      <SectionTitle>Limits and default</SectionTitle>
      <p className="num">
        {above ? 'Above' : 'From'} {format(min, unit)} {above ? 'up to' : 'to'} {format(max, unit)}.
      </p>
      {otherwise && (
        <p className="mt-1">
          Where it is left empty:{' '}
          {Number.isFinite(Number(otherwise))
            ? format(Number(otherwise), unit === '%' ? '%' : '')
            : otherwise.replaceAll('`', '').replace(/, see docs\/\S+$/, '')}
          .
        </p>
      )}
    </>
  );
}

function List({ asked }: { asked: string }) {
  const found = helpFound(asked);
  if (!found.length)
    return (
      <p className="text-soft">Nothing is called so. Try one word of it, or look through the list without a search.</p>
    );
  const button = (e: HelpEntry) => (
    <li key={e.id}>
      <button
        type="button"
        className="hover:bg-well -mx-2 flex w-[calc(100%+1rem)] items-center gap-2 rounded px-2 py-1 text-left"
        onClick={() => showHelp(e.id)}
      >
        <span className="min-w-0 flex-1">
          {e.title}
          {asked && <span className="text-soft block truncate text-[12px]">{reworded(e.means)}</span>}
        </span>
        <ChevronRight size={13} className="text-soft shrink-0" />
      </button>
    </li>
  );
  if (asked.trim()) return <ul>{found.map(button)}</ul>;
  return KINDS.map(({ kind, title }) => (
    <section key={kind} aria-label={title} className="first:-mt-4">
      <SectionTitle>{title}</SectionTitle>
      <ul>{found.filter((e) => e.kind === kind).map(button)}</ul>
    </section>
  ));
}
