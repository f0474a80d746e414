import { Crosshair } from 'lucide-react';
import { DEFAULT_PIN, type Pin, type PinEvent } from '@/core/model/pin';
import type { Gate, Probe } from '@/core/model/study';
import { formatPlace } from '@/core/units/reader';
import { useAim, useBench } from '../study/bench';
import { Button, Row, Select } from '../ui/controls';
import { QuantityField } from '../ui/QuantityField';
import { useNameOf } from '../study/names';

type Choice = 'none' | PinEvent['by'] | `probe:${string}`;

/** Starting values when a pin is told to move by something else. */
const EVENTS: Record<Exclude<PinEvent['by'], 'front'>, PinEvent> = {
  start: { by: 'start' },
  time: { by: 'time', time: 0.5 },
  share: { by: 'share', share: 0.5 },
  pressure: { by: 'pressure', pressure: 3e7 },
};
const LABELS: Record<PinEvent['by'], string> = {
  start: 'At the start',
  time: 'At a time',
  share: 'At a share',
  pressure: 'At a pressure',
  front: 'Front arrives',
};

/** The valve pin of a gate: what opens it, what closes it, and how fast it moves. */
export function PinFields({
  gate,
  probes,
  onChange,
}: {
  gate: Gate;
  probes: readonly Probe[];
  onChange: (label: string, pin: Pin | undefined) => void;
}) {
  const { pin } = gate;
  const edit = (patch: Partial<Pin>) => onChange(`Valve pin of gate ${gate.id}`, { ...(pin ?? DEFAULT_PIN), ...patch });
  return (
    <>
      <Row label="Pin opens">
        <EventSelect
          label="Pin opens"
          event={pin?.open ?? null}
          none="No pin"
          kinds={['start', 'time', 'share', 'pressure', 'front']}
          probes={probes}
          onChange={(open) => (open ? edit({ open }) : onChange(`Take the pin out of gate ${gate.id}`, undefined))}
        />
      </Row>
      {pin && (
        <>
          <EventValue event={pin.open} name="Opens" onChange={(open) => edit({ open })} />
          {pin.open.by === 'front' && <PickPlace gate={gate.id} move="open" event={pin.open} />}
          <Row label="Pin closes">
            <EventSelect
              label="Pin closes"
              event={pin.close}
              none="Never"
              kinds={['time', 'share', 'pressure', 'front']}
              probes={probes}
              onChange={(close) => edit({ close })}
            />
          </Row>
          {pin.close && <EventValue event={pin.close} name="Closes" onChange={(close) => edit({ close })} />}
          {pin.close?.by === 'front' && <PickPlace gate={gate.id} move="close" event={pin.close} />}
          <FurtherMoves pin={pin} probes={probes} edit={edit} />
          <QuantityField
            of="pinTakes"
            label="Takes"
            value={pin.over}
            onChange={(v) => v !== null && edit({ over: v })}
          />
        </>
      )}
    </>
  );
}

/** Openings after the first closing, each with a closing of its own if wanted. */
function FurtherMoves({
  pin,
  probes,
  edit,
}: {
  pin: Pin;
  probes: readonly Probe[];
  edit: (patch: Partial<Pin>) => void;
}) {
  const { again = [] } = pin;
  const last = again.length ? again[again.length - 1].close : pin.close;
  const set = (k: number, patch: Partial<(typeof again)[number]>) =>
    edit({ again: again.map((a, i) => (i === k ? { ...a, ...patch } : a)) });
  return (
    <>
      {pin.close &&
        again.map((cycle, k) => (
          <fieldset key={k} className="space-y-1.5 border-l-2 pl-2.5">
            <Row label="Opens again">
              <EventSelect
                label={`Pin opens again ${k + 1}`}
                event={cycle.open}
                none="No more"
                kinds={['time', 'share', 'pressure', 'front']}
                probes={probes}
                onChange={(open) => (open ? set(k, { open }) : edit({ again: again.slice(0, k) }))}
              />
            </Row>
            <EventValue event={cycle.open} name="Opens" onChange={(open) => set(k, { open })} />
            <Row label="Closes">
              <EventSelect
                label={`Pin closes again ${k + 1}`}
                event={cycle.close}
                none="Never"
                kinds={['time', 'share', 'pressure', 'front']}
                probes={probes}
                onChange={(close) => set(k, { close })}
              />
            </Row>
            {cycle.close && <EventValue event={cycle.close} name="Closes" onChange={(close) => set(k, { close })} />}
          </fieldset>
        ))}
      {last && again.length < 12 && (
        <Button
          className="w-full"
          onClick={() => edit({ again: [...again, { open: { by: 'time', time: afterTime(last) }, close: null }] })}
        >
          Opens again
        </Button>
      )}
    </>
  );
}

/** A time some way behind a move that is set by time, s. */
const afterTime = (move: PinEvent): number => (move.by === 'time' ? Number((move.time + 0.5).toFixed(3)) : 1);

/** Lets the place be clicked at which the front has to arrive; without one it is the gate's own. */
function PickPlace({ gate, move, event }: { gate: string; move: 'open' | 'close'; event: PinEvent & { by: 'front' } }) {
  const picking = useAim('pin');
  const set = useBench((s) => s.set);
  const on = picking?.gate === gate && picking.move === move;
  const said = event.position ? formatPlace(event.position) : null;
  return (
    <div className="flex items-center justify-between gap-2">
      <span className="num text-soft text-[12px]">{said ?? 'at the gate itself'}</span>
      <Button
        aria-pressed={on}
        className={`w-36 shrink-0 ${on ? 'border-petrol! bg-petrol-wash!' : ''}`}
        onClick={() => set({ aim: on ? null : { for: 'pin', gate, move } })}
      >
        <Crosshair size={13} /> {on ? 'Click the place' : 'Pick the place'}
      </Button>
    </div>
  );
}

function EventSelect({
  label,
  event,
  none,
  kinds,
  probes,
  onChange,
}: {
  label: string;
  event: PinEvent | null;
  none: string;
  kinds: PinEvent['by'][];
  probes: readonly Probe[];
  onChange: (event: PinEvent | null) => void;
}) {
  const nameOf = useNameOf();
  const same = (p: Probe) =>
    event?.by === 'front' && event.position !== null && p.position.every((x, d) => x === event.position?.[d]);
  const atProbe = probes.find(same);
  const value: Choice = !event ? 'none' : atProbe ? `probe:${atProbe.id}` : event.by;
  const options: { value: Choice; label: string }[] = [
    { value: 'none', label: none },
    ...kinds.map((by) => ({
      value: by,
      label: by === 'front' && event?.by === 'front' && event.position && !atProbe ? 'Front at a place' : LABELS[by],
    })),
    ...probes.map((p) => ({ value: `probe:${p.id}` as const, label: `Front at probe ${nameOf('probe', p.id)}` })),
  ];
  return (
    <Select
      label={label}
      value={value}
      options={options}
      onChange={(choice) => {
        const probe = probes.find((p) => choice === `probe:${p.id}`);
        if (probe) onChange({ by: 'front', position: probe.position });
        else if (choice === 'none') onChange(null);
        else if (choice === 'front') onChange({ by: 'front', position: null });
        else onChange(EVENTS[choice as keyof typeof EVENTS]);
      }}
    />
  );
}

function EventValue({ event, name, onChange }: { event: PinEvent; name: string; onChange: (event: PinEvent) => void }) {
  if (event.by === 'time')
    return (
      <QuantityField
        of="pinTime"
        label={`${name} at`}
        value={event.time}
        onChange={(time) => time !== null && onChange({ by: 'time', time })}
      />
    );
  if (event.by === 'share')
    return (
      <QuantityField
        of="pinShare"
        label={`${name} at`}
        value={event.share}
        onChange={(share) => share !== null && onChange({ by: 'share', share })}
      />
    );
  if (event.by === 'pressure')
    return (
      <QuantityField
        of="pinPressure"
        label={`${name} at`}
        value={event.pressure}
        onChange={(pressure) => pressure !== null && onChange({ by: 'pressure', pressure })}
      />
    );
  return null;
}
