import { useThree } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import { Curve, useCurveLook } from './FindingsLayer';
import { Label } from './Label';

type Point = [number, number, number];

/** What is measured, mm: one end or two, each with what is written beside it. */
export interface RulerMark {
  ends: { at: Point; label: string | null }[];
  /** Between two ends. */
  distance: string | null;
}

/** One end or two, and the way between them; seen through the part. */
export function RulerLayer({
  mark: { ends, distance },
  size,
  colour,
  paper,
}: {
  mark: RulerMark;
  /** Radius of an end, mm. */
  size: number;
  colour: string;
  paper: string;
}) {
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => {
    invalidate();
    return () => invalidate();
  }, [ends, invalidate]);
  const look = useCurveLook(colour, paper);
  const way = useMemo(() => ends.map(({ at }) => at), [ends]);
  return (
    <>
      {ends.map(({ at, label }, k) => (
        <group key={k}>
          <mesh position={at} renderOrder={9} raycast={() => null}>
            <sphereGeometry args={[size, 18, 12]} />
            <meshBasicMaterial color={colour} depthTest={false} transparent />
          </mesh>
          {label && <Label position={at} text={label} ink={paper} ground={colour} rank={1} />}
        </group>
      ))}
      {way.length > 1 && <Curve points={way} look={look} />}
      {distance && ends.length > 1 && (
        <Label
          position={ends[0].at.map((x, d) => (x + ends[1].at[d]) / 2) as Point}
          text={distance}
          ink={paper}
          ground={colour}
          rank={0}
        />
      )}
    </>
  );
}
