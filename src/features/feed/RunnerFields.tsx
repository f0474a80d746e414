import { linesOfNetwork } from '@/core/feed/polylines';
import { coldVolume } from '@/core/feed/network';
import { defaultFeed, type Feed, type FeedLayout } from '@/core/model/feed';
import { nCopies } from '@/core/model/study';
import type { FeedFacts } from '@/core/results/feedFacts';
import { format, formatShown, shownUnit } from '@/core/units/reader';
import { formatNumber } from '@/core/units/units';
import { latestResult, presentPart, presentInputs, useStudy } from '../study/store';
import { useView } from '../study/view';
import { Choice, Fact, Fold, SectionTitle, Select } from '../ui/controls';
import { QuantityField } from '../ui/QuantityField';
import { DrawnRunners } from './DrawnRunners';
import { laidOut } from './laidOut';
import { SectionFields } from './SectionFields';

const NONE = 'none';
const LAYOUTS: { value: FeedLayout | typeof NONE; label: string; note?: string }[] = [
  { value: NONE, label: 'None', note: 'melt straight to the gates' },
  { value: 'star', label: 'Star', note: 'straight to every gate' },
  { value: 'trunk', label: 'Trunk', note: 'branches square to it' },
  { value: 'tree', label: 'Tree', note: 'halved again and again' },
  { value: 'drawn', label: 'Drawn', note: 'line by line' },
];
/** Runners lie this far from the part when they are first laid out, m. */
const CLEAR = 0.012;

const mm = (x: number) => formatShown(x, 'mm');

/** Sprue, runners, drops and lands: laid out to the gates, cold or hot. */
export function RunnerFields() {
  const inputs = useStudy((s) => presentInputs(s));
  const part = useStudy(presentPart);
  const result = useStudy(latestResult);
  const change = useStudy((s) => s.change);
  const shown = useView((s) => s.feedShown);
  const set = useView((s) => s.set);
  const { feed, gates } = inputs;
  const network = laidOut(inputs);
  const update = (label: string, patch: Partial<Feed>) =>
    feed && change(label, { ...inputs, feed: { ...feed, ...patch } });
  const choose = (layout: FeedLayout | typeof NONE) => {
    if (layout === NONE) return change('Remove the runners', { ...inputs, feed: null });
    if (feed && layout === 'drawn') {
      // What was laid out becomes lines that can be moved.
      const lines = feed.lines?.length ? feed.lines : network ? linesOfNetwork(network) : [];
      return update('Runners as lines', { layout, lines, at: feed.at ?? spruePlace(network) });
    }
    if (feed) return update('Runner layout', { layout });
    const bounds = part?.bounds;
    if (!bounds) return;
    const heights = gates.map((g) => g.position[2]);
    const mean = heights.length ? heights.reduce((s, z) => s + z, 0) / heights.length : bounds.max[2];
    const above = mean > (bounds.min[2] + bounds.max[2]) / 2;
    const height = above ? bounds.max[2] + CLEAR : bounds.min[2] - CLEAR;
    change('Lay out runners', { ...inputs, feed: { ...defaultFeed(part.size.wall, height, above), layout } });
  };
  const facts = result?.summary?.feed ?? null;
  return (
    <>
      <SectionTitle>Runners</SectionTitle>
      <Select
        label="Runner layout"
        value={feed?.layout ?? NONE}
        options={LAYOUTS}
        onChange={(v) => choose(v as FeedLayout | typeof NONE)}
      />
      {feed && (
        <div className="mt-1.5 space-y-1.5">
          {feed.layout === 'drawn' && <DrawnRunners feed={feed} update={update} />}
          {!gates.length && <p className="text-soft text-[12px]">Place a gate: the runners go to the gates.</p>}
          <Choice
            label="Cold or hot"
            value={feed.hot ? 'hot' : 'cold'}
            options={[
              { value: 'cold', label: 'Cold' },
              { value: 'hot', label: 'Hot' },
            ]}
            onChange={(v) =>
              update(v === 'hot' ? 'Hot runners' : 'Cold runners', { hot: v === 'hot' ? { temperature: null } : null })
            }
          />
          {feed.hot && (
            <QuantityField
              of="hotTemperature"
              label="Kept at"
              value={feed.hot.temperature}
              emptyHint="as the melt"
              onChange={(temperature) => update('Temperature of the hot runners', { hot: { temperature } })}
            />
          )}
          <QuantityField
            of="runnerHeight"
            label="Height of runners"
            value={feed.height}
            onChange={(v) => v !== null && update('Height of the runners', { height: v })}
          />
          <SectionFields
            name="Runner"
            section={feed.runner}
            onChange={(runner) => update('Section of the runners', { runner })}
          />
          <Fold
            title="Sprue"
            said={`${mm(feed.sprue.nozzle)} to ${mm(feed.sprue.runner)}, ${format(feed.sprue.length, 'mm')}`}
          >
            <QuantityField
              of="sprueAt"
              label="Sprue X"
              value={feed.at?.[0] ?? null}
              emptyHint="centred"
              onChange={(v) =>
                update('Place of the sprue', { at: v === null ? null : [v, feed.at?.[1] ?? spruePlace(network)[1]] })
              }
            />
            <QuantityField
              of="sprueAt"
              label="Sprue Y"
              value={feed.at?.[1] ?? null}
              emptyHint="centred"
              onChange={(v) =>
                update('Place of the sprue', { at: v === null ? null : [feed.at?.[0] ?? spruePlace(network)[0], v] })
              }
            />
            <QuantityField
              of="sprueLength"
              label="Sprue length"
              value={feed.sprue.length}
              onChange={(v) => v !== null && update('Length of the sprue', { sprue: { ...feed.sprue, length: v } })}
            />
            <QuantityField
              of="sprueNozzle"
              label="Sprue at nozzle"
              value={feed.sprue.nozzle}
              onChange={(v) => v !== null && update('Sprue at the nozzle', { sprue: { ...feed.sprue, nozzle: v } })}
            />
            <QuantityField
              of="sprueRunner"
              label="Sprue at runners"
              value={feed.sprue.runner}
              onChange={(v) => v !== null && update('Sprue at the runners', { sprue: { ...feed.sprue, runner: v } })}
            />
          </Fold>
          <Fold
            title="Drops, lands, slugs"
            said={`${mm(feed.drop.runner)} to ${mm(feed.drop.gate)}, ${format(feed.land.length, 'mm')}`}
          >
            <QuantityField
              of="dropRunner"
              label="Drop at runner"
              value={feed.drop.runner}
              onChange={(v) => v !== null && update('Drop at the runner', { drop: { ...feed.drop, runner: v } })}
            />
            <QuantityField
              of="dropGate"
              label="Drop at gate"
              value={feed.drop.gate}
              onChange={(v) => v !== null && update('Drop at the gate', { drop: { ...feed.drop, gate: v } })}
            />
            <QuantityField
              of="landLength"
              label="Land length"
              value={feed.land.length}
              onChange={(v) => v !== null && update('Length of the lands', { land: { ...feed.land, length: v } })}
            />
            <QuantityField
              of="slug"
              label="Cold-slug ends"
              value={feed.slug ?? 0}
              note={feed.hot && feed.slug ? 'Hot runners have none.' : null}
              onChange={(slug) => slug !== null && update('Cold-slug ends', { slug })}
            />
          </Fold>
          <Choice
            label="Feed in the view"
            value={shown}
            options={[
              { value: 'full', label: 'Shown' },
              { value: 'faded', label: 'Faded' },
              { value: 'hidden', label: 'Hidden' },
              { value: 'alone', label: 'Alone' },
            ]}
            onChange={(v) => set({ feedShown: v })}
          />
          {network && (
            <dl className="num grid grid-cols-[1fr_auto] gap-y-1 pt-1">
              <Fact label="Cold feed" value={format(coldVolume(network), 'cm³')} />
              {part && (
                <Fact
                  label="Over the part"
                  value={`${formatNumber((100 * coldVolume(network)) / (nCopies(inputs) * part.size.volume), 3)} %`}
                />
              )}
            </dl>
          )}
          {facts && <FeedTable facts={facts} />}
        </div>
      )}
    </>
  );
}

const spruePlace = (network: ReturnType<typeof laidOut>): [number, number] => {
  const p = network?.points[network.nozzle] ?? [0, 0, 0];
  return [p[0], p[1]];
};

/** What the last run says of every section. */
function FeedTable({ facts }: { facts: FeedFacts }) {
  return (
    <table className="num mt-2 w-full text-[12px]" aria-label="Sections of the feed in the last result">
      <thead className="text-soft">
        <tr className="border-b">
          <th className="py-1 text-left font-normal">Section</th>
          <th className="text-right font-normal">Loss {shownUnit('MPa')}</th>
          <th className="text-right font-normal">Shear 1/s</th>
          <th className="text-right font-normal">Frozen %</th>
        </tr>
      </thead>
      <tbody>
        {facts.sections.map((s) => (
          <tr key={s.id} className="border-b last:border-0" title={s.gates.join(', ')}>
            <td className="py-0.5 text-left">
              {s.id} <span className="text-soft">{s.kind}</span>
            </td>
            <td className="text-right">{formatShown(s.pressureLoss_Pa, 'MPa')}</td>
            <td className="text-right">{Number(s.peakShearRate_1_s.toPrecision(2)).toLocaleString('en-GB')}</td>
            <td className="text-right">{formatNumber(100 * s.frozenShareEnd, 2)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
