'use client';

import { Trash2 } from 'lucide-react';
import { helpOfTable } from '@/core/help/constantHelp';
import { distance } from '@/core/geometry/vec';
import type { AxisTrace, Body } from '@/core/model/body';
import { format } from '@/core/units/reader';
import { presentInputs, useStudy } from '../study/store';
import { mainView } from '../study/view';
import { SectionTitle } from '../ui/controls';
import { NumberField } from '../ui/NumberField';

/** The centre line of a body, point by point: diameters and places can be changed, points taken out. */
export function AxisTable({ body }: { body: Body }) {
  const inputs = useStudy((s) => presentInputs(s));
  const change = useStudy((s) => s.change);
  const axis = inputs.axes.find((a) => a.body === body.id);
  if (!axis) return null;
  const update = (label: string, next: AxisTrace | null) =>
    change(label, { ...inputs, axes: inputs.axes.flatMap((a) => (a.id === axis.id ? (next ? [next] : []) : [a])) });
  const length = axis.segments.reduce((s, [a, b]) => s + distance(axis.nodes[a].position, axis.nodes[b].position), 0);
  return (
    <>
      <SectionTitle
        aside={
          <button
            type="button"
            className="text-soft hover:text-problem"
            aria-label="Delete the axis trace"
            onClick={() => update('Delete axis trace', null)}
          >
            <Trash2 size={14} />
          </button>
        }
      >
        Axis trace, {format(length, 'mm', 4)}
      </SectionTitle>
      <ul className="max-h-64 space-y-2 overflow-y-auto">
        {axis.nodes.map((node, i) => {
          const links = axis.segments.filter((s) => s.includes(i)).length;
          const kind = links === 1 ? 'end' : links === 2 ? 'bend' : 'branch';
          return (
            <li key={i} className="border-l-2 pl-2">
              <div className="text-soft flex justify-between text-[12px]">
                <button
                  type="button"
                  className="hover:text-petrol"
                  onClick={() => mainView.getState().flyTo(node.position, `${axis.name}, point ${i + 1}`)}
                >
                  Point {i + 1}, {kind}
                </button>
                {links <= 2 && axis.nodes.length > 2 && (
                  <button
                    type="button"
                    aria-label={`Take out point ${i + 1}`}
                    className="hover:text-problem"
                    onClick={() => update(`Take out point ${i + 1}`, withoutNode(axis, i))}
                  >
                    <Trash2 size={12} />
                  </button>
                )}
              </div>
              <NumberField
                label="Diameter"
                help={helpOfTable('axisPoint')}
                unit="mm"
                value={node.diameter}
                min={1e-4}
                max={1}
                step={0.5}
                onChange={(v) =>
                  v !== null &&
                  update(`Diameter of point ${i + 1}`, {
                    ...axis,
                    nodes: axis.nodes.map((n, k) => (k === i ? { ...n, diameter: v } : n)),
                  })
                }
              />
              {['X', 'Y', 'Z'].map((name, d) => (
                <NumberField
                  key={name}
                  label={name}
                  help={helpOfTable('axisPoint')}
                  unit="mm"
                  value={node.position[d]}
                  min={-100}
                  max={100}
                  step={1}
                  onChange={(v) =>
                    v !== null &&
                    update(`Move point ${i + 1}`, {
                      ...axis,
                      nodes: axis.nodes.map((n, k) =>
                        k === i
                          ? { ...n, position: n.position.map((x, e) => (e === d ? v : x)) as typeof n.position }
                          : n,
                      ),
                    })
                  }
                />
              ))}
            </li>
          );
        })}
      </ul>
    </>
  );
}

/** Without a point: its neighbours are joined. */
export function withoutNode(axis: AxisTrace, i: number): AxisTrace {
  const around = axis.segments.filter((s) => s.includes(i)).map(([a, b]) => (a === i ? b : a));
  const kept = axis.segments.filter((s) => !s.includes(i));
  const bridged = around.length === 2 ? [...kept, [around[0], around[1]] as [number, number]] : kept;
  const shift = (k: number) => (k > i ? k - 1 : k);
  return {
    ...axis,
    nodes: axis.nodes.filter((_, k) => k !== i),
    segments: bridged.map(([a, b]) => [shift(a), shift(b)]),
  };
}
