import { useFrame, useThree } from '@react-three/fiber';
import { createContext, useContext, useEffect, useMemo, useRef, type ReactNode } from 'react';
import * as THREE from 'three';
import { layOutLabels, type Plate } from './labelLayout';

const FONT = "600 24px 'Inter Variable', Inter, sans-serif";
const HEIGHT = 40;

interface Props {
  /** mm */
  position: [number, number, number];
  text: string;
  ink: string;
  ground: string;
  /** Height on the screen, px. */
  size?: number;
  /** Where the anchor lies in the label, from its lower left corner: 0.5, 0 stands on its point. */
  anchor?: [number, number];
  /** Labels of a smaller one have their place first. */
  rank?: number;
  /** Labels of one group stand for each other where there is no room for all: "W1 +3". */
  group?: string;
}

interface Entry extends Required<Omit<Props, 'position' | 'group' | 'anchor'>> {
  group: string | null;
  anchor: [number, number];
  sprite: THREE.Sprite;
}

const BoardContext = createContext<Set<Entry> | null>(null);

/** Keeps the labels within it from covering one another, wherever the eye goes. */
export function LabelBoard({ children }: { children: ReactNode }) {
  const entries = useMemo(() => new Set<Entry>(), []);
  return (
    <BoardContext value={entries}>
      {children}
      <Layout entries={entries} />
    </BoardContext>
  );
}

function Layout({ entries }: { entries: Set<Entry> }) {
  const plates = useMemo(() => new Plates(), []);
  useEffect(() => () => plates.dispose(), [plates]);
  const point = useRef(new THREE.Vector3());
  useFrame(({ camera, size }) => {
    if (!entries.size) return;
    const list = [...entries];
    const laid = layOutLabels(
      list.map((entry): Plate => {
        const p = entry.sprite.getWorldPosition(point.current).project(camera);
        const ahead = p.z < 1;
        const plate = plates.of(entry.text, entry.ink, entry.ground);
        return {
          x: ahead ? ((p.x + 1) / 2) * size.width : NaN,
          y: ((1 - p.y) / 2) * size.height,
          w: entry.size * plate.ratio,
          h: entry.size,
          anchor: entry.anchor,
          rank: entry.rank,
          group: entry.group,
        };
      }),
      size.width,
      size.height,
    );
    list.forEach(({ sprite, text, ink, ground, size: tall }, k) => {
      const { anchor, more } = laid[k];
      sprite.visible = anchor !== null;
      if (!anchor) return;
      const { material, ratio } = plates.of(more ? `${text} +${more}` : text, ink, ground);
      const height = (tall / size.height) * 2 * Math.tan(((camera as THREE.PerspectiveCamera).fov * Math.PI) / 360);
      sprite.material = material;
      sprite.scale.set(height * ratio, height, 1);
      sprite.center.set(...(anchor as [number, number]));
    });
  });
  return null;
}

/** A small plate with text that always faces the eye and keeps its size on the screen; within a `LabelBoard`. */
export function Label({ position, text, ink, ground, size = 19, anchor, rank = 5, group }: Props) {
  const entries = useContext(BoardContext);
  const invalidate = useThree((s) => s.invalidate);
  const sprite = useRef<THREE.Sprite>(null);
  const [ax, ay] = anchor ?? [0.5, -0.35];
  useEffect(() => {
    if (!entries || !sprite.current) return;
    const entry: Entry = {
      text,
      ink,
      ground,
      size,
      anchor: [ax, ay],
      rank,
      group: group ?? null,
      sprite: sprite.current,
    };
    entries.add(entry);
    invalidate();
    return () => {
      entries.delete(entry);
      invalidate();
    };
  }, [entries, text, ink, ground, size, ax, ay, rank, group, invalidate]);
  const [x, y, z] = position;
  useEffect(() => invalidate(), [x, y, z, invalidate]);
  return <sprite ref={sprite} visible={false} position={position} renderOrder={20} raycast={() => null} />;
}

interface Drawn {
  material: THREE.SpriteMaterial;
  /** Width over height. */
  ratio: number;
}

/** Plates that were drawn, by what they say. */
class Plates {
  private readonly drawn = new Map<string, Drawn>();

  of(text: string, ink: string, ground: string): Drawn {
    const key = `${ink} ${ground} ${text}`;
    let plate = this.drawn.get(key);
    if (!plate) {
      // A drag writes ever new numbers: what was drawn long ago goes.
      if (this.drawn.size > MOST_DRAWN) this.dispose();
      this.drawn.set(key, (plate = draw(text, ink, ground)));
    }
    return plate;
  }

  dispose(): void {
    for (const { material } of this.drawn.values()) {
      material.map?.dispose();
      material.dispose();
    }
    this.drawn.clear();
  }
}
const MOST_DRAWN = 400;

function draw(text: string, ink: string, ground: string): Drawn {
  const canvas = document.createElement('canvas');
  const context = canvas.getContext('2d') as CanvasRenderingContext2D;
  context.font = FONT;
  canvas.width = Math.ceil(context.measureText(text).width) + 22;
  canvas.height = HEIGHT;
  context.font = FONT;
  context.fillStyle = ground;
  context.beginPath();
  context.roundRect(0, 0, canvas.width, HEIGHT, 7);
  context.fill();
  context.fillStyle = ink;
  context.textBaseline = 'middle';
  context.fillText(text, 11, HEIGHT / 2 + 1);
  const map = new THREE.CanvasTexture(canvas);
  map.minFilter = THREE.LinearFilter;
  map.generateMipmaps = false;
  return {
    material: new THREE.SpriteMaterial({ map, sizeAttenuation: false, depthTest: false, transparent: true }),
    ratio: canvas.width / HEIGHT,
  };
}
