import { useThree, type ThreeEvent } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';
import { sequential } from './colour';
import { Label } from './Label';

type Point = [number, number, number];

/** A line of the circuits, mm. */
export interface ChannelMark {
  id: string;
  /** What it is called. */
  label: string;
  as: 'channel' | 'baffle' | 'bubbler' | 'hose';
  from: Point;
  to: Point;
  bore: number;
  /** Thickness of a baffle's blade, and which way it stands across the channel. */
  blade?: number;
  across?: Point;
  /** Tube of a bubbler. */
  tube?: number;
  selected: boolean;
  /** Heat along it over the largest of all, 0..1, in equal steps; absent without a result. */
  heat?: number[];
}

export interface CoolingMarks {
  lines: ChannelMark[];
  ends: { at: Point; out: Point; as: 'inlet' | 'outlet' | 'plug'; size: number }[];
  inserts: {
    id: string;
    selected: boolean;
    shape: 'box' | 'cylinder' | 'sphere';
    centre: Point;
    axes: [Point, Point, Point];
    size: Point;
  }[];
  block: { min: Point; max: Point };
}

interface Props {
  marks: CoolingMarks;
  colour: string;
  select: string;
  accent: string;
  ink: string;
  paper: string;
  /** Points with n.x + w > 0 are cut away, mm; null cuts nothing. */
  cut: THREE.Vector4 | null;
  onPick: (id: string) => void;
}

const SIDES = 20;
const vector = (p: Point) => new THREE.Vector3(...p);

/** Block, bores, wells with their blades and tubes, hoses and ends; drawn so that the part stays in sight. */
export function CoolingLayer({ marks, colour, select, accent, ink, paper, cut, onPick }: Props) {
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => invalidate(), [marks, colour, invalidate]);
  const pick = (id: string) => (event: ThreeEvent<MouseEvent>) => {
    if (event.delta >= 5) return;
    event.stopPropagation();
    onPick(id);
  };
  const clip = useMemo(() => (cut ? [new THREE.Plane(new THREE.Vector3(-cut.x, -cut.y, -cut.z), -cut.w)] : []), [cut]);
  const chosen = marks.lines.find((l) => l.selected);
  return (
    <>
      <Block {...marks.block} colour={ink} />
      {marks.lines.map((line) => (
        <Channel
          key={line.id}
          line={line}
          colour={line.selected ? select : colour}
          inner={ink}
          clip={clip}
          onClick={pick(line.id)}
        />
      ))}
      {marks.ends.map((end, k) => (
        <End key={k} clip={clip} end={end} colour={end.as === 'outlet' ? accent : end.as === 'inlet' ? select : ink} />
      ))}
      {marks.inserts.map((insert) => (
        <Insert key={insert.id} insert={insert} colour={insert.selected ? select : accent} onClick={pick(insert.id)} />
      ))}
      {chosen && (
        <Label
          position={chosen.from.map((x, d) => (x + chosen.to[d]) / 2) as Point}
          text={chosen.label}
          rank={0}
          ink={paper}
          ground={select}
        />
      )}
    </>
  );
}

function Block({ min, max, colour }: { min: Point; max: Point; colour: string }) {
  const size = max.map((x, d) => x - min[d]) as Point;
  const [x, y, z] = size;
  const edges = useMemo(() => new THREE.EdgesGeometry(new THREE.BoxGeometry(x, y, z)), [x, y, z]);
  useEffect(() => () => edges.dispose(), [edges]);
  return (
    <lineSegments
      geometry={edges}
      position={min.map((p, d) => p + size[d] / 2) as Point}
      renderOrder={4}
      raycast={() => null}
    >
      <lineBasicMaterial color={colour} transparent opacity={0.45} />
    </lineSegments>
  );
}

function Channel({
  line,
  colour,
  inner,
  clip,
  onClick,
}: {
  line: ChannelMark;
  colour: string;
  inner: string;
  clip: THREE.Plane[];
  onClick: (event: ThreeEvent<MouseEvent>) => void;
}) {
  const geometry = useMemo(() => (line.as === 'hose' ? hose(line) : bore(line)), [line]);
  const blade = useMemo(() => (line.as === 'baffle' ? bladeOf(line) : null), [line]);
  useEffect(() => () => void geometry.dispose(), [geometry]);
  useEffect(() => () => void blade?.dispose(), [blade]);
  const well = line.as === 'baffle' || line.as === 'bubbler';
  const coloured = line.heat !== undefined && line.as !== 'hose' && !line.selected;
  return (
    <>
      <mesh geometry={geometry} renderOrder={well ? 6 : 5} onClick={onClick}>
        <meshBasicMaterial
          key={String(coloured)}
          color={coloured ? '#ffffff' : colour}
          vertexColors
          transparent
          opacity={line.as === 'hose' ? 0.75 : well ? 0.55 : 0.85}
          depthWrite={!well}
          clippingPlanes={clip}
        />
      </mesh>
      {blade && (
        <mesh geometry={blade} renderOrder={7} raycast={() => null}>
          <meshBasicMaterial color={inner} side={THREE.DoubleSide} clippingPlanes={clip} />
        </mesh>
      )}
      {line.as === 'bubbler' && line.tube && <Tube line={line} radius={line.tube / 2} colour={inner} />}
    </>
  );
}

/** A cylinder with soft shading in its vertex colours, or the colours of the heat along it. */
function bore({ from, to, bore: diameter, heat }: ChannelMark): THREE.BufferGeometry {
  const steps = heat?.length ?? 1;
  const [a, b] = [vector(from), vector(to)];
  const length = a.distanceTo(b);
  const geometry = new THREE.CylinderGeometry(diameter / 2, diameter / 2, length, SIDES, steps, false);
  const place = geometry.getAttribute('position');
  const normal = geometry.getAttribute('normal');
  const colours = new Float32Array(3 * place.count);
  for (let i = 0; i < place.count; i++) {
    const share = place.getY(i) / length + 0.5;
    const value = heat?.[Math.min(steps - 1, Math.max(0, Math.round(share * steps - 0.5)))];
    const base = value === undefined ? [1, 1, 1] : sequential(value);
    const lit = 0.8 + 0.2 * normal.getZ(i);
    for (let d = 0; d < 3; d++) colours[3 * i + d] = base[d] * lit;
  }
  geometry.setAttribute('color', new THREE.BufferAttribute(colours, 3));
  const way = b.clone().sub(a).normalize();
  geometry.applyQuaternion(new THREE.Quaternion().setFromUnitVectors(new THREE.Vector3(0, 1, 0), way));
  return geometry.translate(...a.add(b).multiplyScalar(0.5).toArray());
}

/** A loop between two ends that hangs out away from the straight way. */
function hose({ from, to, bore: diameter, across }: ChannelMark): THREE.BufferGeometry {
  const [a, b] = [vector(from), vector(to)];
  const out = vector(across ?? [0, 0, 1]).multiplyScalar(0.55 * a.distanceTo(b) + 2 * diameter);
  const curve = new THREE.CubicBezierCurve3(a, a.clone().add(out), b.clone().add(out), b);
  const geometry = new THREE.TubeGeometry(curve, 24, diameter / 2.4, 10, false);
  const white = new Float32Array(3 * geometry.getAttribute('position').count).fill(1);
  geometry.setAttribute('color', new THREE.BufferAttribute(white, 3));
  return geometry;
}

function bladeOf({ from, to, bore: diameter, blade = 1.5, across = [1, 0, 0] }: ChannelMark): THREE.BufferGeometry {
  const [a, b] = [vector(from), vector(to)];
  const way = b.clone().sub(a);
  const length = way.length();
  way.normalize();
  const side = vector(across).addScaledVector(way, -vector(across).dot(way)).normalize();
  const thin = new THREE.Vector3().crossVectors(way, side);
  // Open at the tip, where the coolant turns.
  const height = Math.max(0.3 * length, length - 0.7 * diameter) + diameter / 2;
  const geometry = new THREE.BoxGeometry(diameter, height, blade);
  geometry.applyMatrix4(new THREE.Matrix4().makeBasis(side, way, thin));
  return geometry.translate(...a.addScaledVector(way, height / 2 - diameter / 2).toArray());
}

function Tube({ line, radius, colour }: { line: ChannelMark; radius: number; colour: string }) {
  const geometry = useMemo(() => {
    const end = vector(line.from).lerp(vector(line.to), 0.86).toArray() as Point;
    return bore({ ...line, to: end, bore: 2 * radius, heat: undefined });
  }, [line, radius]);
  useEffect(() => () => geometry.dispose(), [geometry]);
  return (
    <mesh geometry={geometry} renderOrder={7} raycast={() => null}>
      <meshBasicMaterial color={colour} vertexColors />
    </mesh>
  );
}

/** Inlets point in, outlets out, plugs are flat. */
function End({ end, colour, clip }: { end: CoolingMarks['ends'][0]; colour: string; clip: THREE.Plane[] }) {
  const { at, out, as, size } = end;
  const way = vector(out).normalize();
  const turn = new THREE.Quaternion().setFromUnitVectors(
    new THREE.Vector3(0, 1, 0),
    as === 'inlet' ? way.clone().negate() : way,
  );
  const middle = vector(at).addScaledVector(way, as === 'plug' ? 0 : size);
  return (
    <mesh position={middle.toArray()} quaternion={turn} renderOrder={6} raycast={() => null}>
      {as === 'plug' ? (
        <cylinderGeometry args={[0.7 * size, 0.7 * size, 0.5 * size, 16]} />
      ) : (
        <coneGeometry args={[0.75 * size, 1.7 * size, 18]} />
      )}
      <meshBasicMaterial color={colour} clippingPlanes={clip} />
    </mesh>
  );
}

function Insert({
  insert,
  colour,
  onClick,
}: {
  insert: CoolingMarks['inserts'][0];
  colour: string;
  onClick: (event: ThreeEvent<MouseEvent>) => void;
}) {
  const { shape, size, axes, centre } = insert;
  const turn = useMemo(() => {
    const [x, y, z] = axes.map(vector);
    // Cylinders stand along their local y in the geometry, along the third axis here.
    return new THREE.Quaternion().setFromRotationMatrix(
      shape === 'cylinder'
        ? new THREE.Matrix4().makeBasis(x, z, y.clone().negate())
        : new THREE.Matrix4().makeBasis(x, y, z),
    );
  }, [axes, shape]);
  return (
    <mesh position={centre} quaternion={turn} renderOrder={6} onClick={onClick}>
      {shape === 'box' ? (
        <boxGeometry args={size} />
      ) : shape === 'cylinder' ? (
        <cylinderGeometry args={[size[0] / 2, size[0] / 2, size[2], 28]} />
      ) : (
        <sphereGeometry args={[size[0] / 2, 24, 16]} />
      )}
      <meshBasicMaterial color={colour} transparent opacity={0.35} depthWrite={false} />
    </mesh>
  );
}
