import type { Vec3 } from '@/core/geometry/mesh';
import { sectionUnder } from '@/viewer/section';
import { dropProbe } from '../answers/probeActions';
import { layPiece } from '../cycle/pressActions';
import { placeGate } from '../feed/gateActions';
import { pickMeltPlace, placeNeedle } from '../feed/needleActions';
import { pickPinPlace, placeOutlet } from '../feed/placeActions';
import { turnPart, turnTo } from '../part/bodyActions';
import { holdFace } from '../part/InsertPanel';
import { useBench } from '../study/bench';
import { pickForShape } from '../study/shapeActions';
import { presentPart, useStudy } from '../study/store';
import { mainView } from '../study/view';

/**
 * Does with a place on the part, and the face there, what is aimed at; m. False where nothing is.
 * @param measure Takes an end of a distance that is measured.
 */
export function takePlace(at: Vec3, normal: Vec3, measure?: (at: Vec3, normal: Vec3) => void): boolean {
  const { aim } = useBench.getState();
  switch (aim?.for) {
    case 'runner':
    case 'channel':
    case 'no-gate':
      // Drawn in their plane; painted while the pointer moves.
      break;
    case 'pin':
      pickPinPlace(at);
      break;
    case 'outlet':
      placeOutlet(aim.kind, at, normal);
      break;
    case 'core':
      (aim.what === 'needle' ? placeNeedle : pickMeltPlace)(at);
      break;
    case 'charge':
      layPiece(at);
      break;
    case 'gate':
      placeGate(at);
      break;
    case 'probe':
      dropProbe(at);
      break;
    case 'alignment':
    case 'support':
    case 'measure':
      pickForShape(at);
      break;
    case 'distance':
      measure?.(at, normal);
      break;
    case 'section-face':
      cutAlong(at, normal);
      break;
    case 'insert-face':
      holdFace(aim.insert, at);
      break;
    case 'face':
      faceDown(normal);
      break;
    default:
      return false;
  }
  return true;
}

/** Lays the section along the face of a place, half a wall below it. */
function cutAlong(at: Vec3, normal: Vec3): void {
  useBench.getState().set({ aim: null });
  const part = presentPart(useStudy.getState());
  if (!part) return;
  mainView.getState().set({ section: { on: true, ...sectionUnder(at, normal, part.bounds, 0.5 * part.size.wall) } });
}

function faceDown(normal: Vec3): void {
  useBench.getState().set({ aim: null });
  const box = presentPart(useStudy.getState())?.bounds;
  if (!box) return;
  const centre = box.min.map((m, d) => (m + box.max[d]) / 2) as Vec3;
  void turnPart('Put a face down', turnTo(normal, -1, centre));
}
