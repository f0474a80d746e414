import { useThree } from '@react-three/fiber';
import { useEffect, useLayoutEffect, useMemo } from 'react';
import type * as THREE from 'three';
import { Line2 } from 'three/examples/jsm/lines/Line2.js';
import { LineGeometry } from 'three/examples/jsm/lines/LineGeometry.js';
import { LineMaterial } from 'three/examples/jsm/lines/LineMaterial.js';
import { Label } from './Label';
import { leaves } from './section';

/** Curves and places drawn over the part. Lengths in mm. */
export interface FindingMarks {
  curves: { id: string; points: [number, number, number][]; label: string }[];
  places: { id: string; position: [number, number, number]; label: string; kind: PlaceKind }[];
}
export type PlaceKind = 'air' | 'slow' | 'low' | 'high' | 'probe' | 'chosen' | 'vent' | 'vent-chosen' | 'jump';

interface Props extends FindingMarks {
  /** Size of a mark, mm. */
  size: number;
  ink: string;
  paper: string;
  accent: string;
  select: string;
  /** What a section cuts away has no marks: n.x + w > 0, mm. */
  plane: THREE.Vector4 | null;
}

/** What was asked for is told before what was found. */
const RANK: Record<PlaceKind, number> = {
  chosen: 0,
  'vent-chosen': 0,
  probe: 1,
  high: 2,
  low: 2,
  air: 5,
  slow: 6,
  jump: 6,
  vent: 7,
};

export function FindingsLayer({ curves: allCurves, places: allPlaces, plane, ...look }: Props) {
  const { size, ink, paper, accent, select } = look;
  const curveLook = useCurveLook(ink, paper);
  const { curves, places } = useMemo(
    () => leftStanding({ curves: allCurves, places: allPlaces }, plane),
    [allCurves, allPlaces, plane],
  );
  const colourOf: Record<PlaceKind, string> = {
    air: accent,
    slow: ink,
    low: ink,
    high: ink,
    probe: select,
    chosen: select,
    vent: ink,
    'vent-chosen': select,
    jump: accent,
  };
  return (
    <>
      {curves.map((c) => (
        <Curve key={c.id} points={c.points} look={curveLook} />
      ))}
      {curves
        .filter((c) => c.label)
        .map((c) => (
          <Label
            key={`${c.id} label`}
            position={c.points[Math.floor(c.points.length / 2)]}
            text={c.label}
            ink={paper}
            ground={ink}
            rank={4}
            group="curve"
          />
        ))}
      {places.map((p) => (
        <group key={p.id}>
          <mesh position={p.position} renderOrder={8} raycast={() => null}>
            <PlaceShape kind={p.kind} size={size} />
            <meshBasicMaterial color={colourOf[p.kind]} depthTest={false} transparent opacity={0.92} />
          </mesh>
          <Label
            position={p.position}
            text={p.label}
            ink={paper}
            ground={colourOf[p.kind]}
            anchor={[0.5, -0.55]}
            rank={RANK[p.kind]}
            group={p.kind}
          />
        </group>
      ))}
    </>
  );
}

/** Marks on what a section leaves; of curves the pieces. */
export function leftStanding({ curves, places }: FindingMarks, plane: THREE.Vector4 | null): FindingMarks {
  if (!plane) return { curves, places };
  const stands = (p: readonly number[]) => leaves(plane, p);
  return {
    curves: curves.flatMap((curve) => {
      const pieces: FindingMarks['curves'][number]['points'][] = [[]];
      for (const p of curve.points)
        if (stands(p)) pieces[pieces.length - 1].push(p);
        else if (pieces[pieces.length - 1].length) pieces.push([]);
      return pieces
        .filter((points) => points.length > 1)
        .map((points, k) => ({ ...curve, id: k ? `${curve.id} ${k}` : curve.id, points }));
    }),
    places: places.filter((p) => stands(p.position)),
  };
}

/** Bubbles are round, slow places blocks, extremes point up or down, probes are small diamonds. */
function PlaceShape({ kind, size }: { kind: PlaceKind; size: number }) {
  if (kind === 'air') return <torusGeometry args={[0.75 * size, 0.22 * size, 10, 28]} />;
  if (kind === 'slow') return <boxGeometry args={[size, size, 0.4 * size]} />;
  if (kind === 'low' || kind === 'high') return <tetrahedronGeometry args={[0.8 * size]} />;
  // A vent is a flat slot, a jump of the front's speed a step of two blades.
  if (kind === 'vent' || kind === 'vent-chosen') return <boxGeometry args={[1.6 * size, 0.35 * size, 0.35 * size]} />;
  if (kind === 'jump') return <coneGeometry args={[0.7 * size, 1.2 * size, 3]} />;
  return <octahedronGeometry args={[0.75 * size]} />;
}

/** The line and its rim: made once for all curves and kept, for their program takes long to make. */
export function useCurveLook(ink: string, paper: string): readonly [rim: LineMaterial, line: LineMaterial] {
  const size = useThree((s) => s.size);
  const look = useMemo(() => {
    const of = (linewidth: number) => new LineMaterial({ linewidth, depthTest: false, transparent: true });
    return [of(5.5), of(2.6)] as const;
  }, []);
  useLayoutEffect(() => {
    [paper, ink].forEach((colour, k) => look[k].color.set(colour));
    for (const material of look) material.resolution.set(size.width, size.height);
  }, [look, size, ink, paper]);
  useEffect(() => () => look.forEach((material) => material.dispose()), [look]);
  return look;
}

/** A line of constant width on the screen with a pale rim, seen through the part where it lies inside. */
export function Curve({ points, look }: { points: [number, number, number][]; look: ReturnType<typeof useCurveLook> }) {
  const invalidate = useThree((s) => s.invalidate);
  const lines = useMemo(() => {
    const geometry = new LineGeometry();
    geometry.setPositions(points.flat());
    return look.map((material, k) => {
      const made = new Line2(geometry, material);
      made.renderOrder = 8 + k;
      made.raycast = () => {};
      return made;
    });
  }, [points, look]);
  useEffect(() => {
    invalidate();
    return () => lines[0].geometry.dispose();
  }, [lines, invalidate]);
  return lines.map((line, i) => <primitive key={i} object={line} />);
}

/** Node of the smallest and the largest value; slivers do not count. */
export function extremesOf(
  values: ArrayLike<number>,
  volumes: ArrayLike<number>,
  times: ArrayLike<number>,
  until: number,
): { low: number; high: number } | null {
  let largest = 0;
  for (let i = 0; i < volumes.length; i++) largest = Math.max(largest, volumes[i]);
  let [low, high] = [-1, -1];
  for (let i = 0; i < values.length; i++) {
    if (!(values[i] === values[i]) || !(times[i] <= until) || volumes[i] < 0.15 * largest) continue;
    if (low < 0 || values[i] < values[low]) low = i;
    if (high < 0 || values[i] > values[high]) high = i;
  }
  return low < 0 ? null : { low, high };
}
