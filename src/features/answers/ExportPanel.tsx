import { Camera, Clapperboard, Table } from 'lucide-react';
import { useRef, useState } from 'react';
import { ALSO_IN_FIBRES_CSV, fibresCsv, OF_FIBRES_CSV } from '@/core/results/fibreFields';
import { DRAWN, MANIFEST, useRunData } from '../study/runData';
import { tell } from '../study/store';
import { Button, SectionTitle } from '../ui/controls';
import { download } from '../ui/download';
import { recordAnimation, savePicture } from './exportPicture';

/** Picture and animation of the view, with legend and time; what fibres are like of a run that followed some. */
export function ExportPanel({ fibresOf }: { fibresOf: string | null }) {
  const manifest = useRunData(fibresOf, MANIFEST)?.manifest;
  const also = ALSO_IN_FIBRES_CSV.filter((id) => manifest?.fields.some((f) => f.id === id));
  const data = useRunData(manifest ? fibresOf : null, DRAWN, [...OF_FIBRES_CSV, ...also]);
  const saveFibres = () => {
    const text = data?.grid && fibresCsv(data.grid.centroid, data.fields);
    if (text) download(new Blob([text], { type: 'text/csv' }), 'fibres.csv');
  };
  const [progress, setProgress] = useState<number | null>(null);
  const stop = useRef<AbortController | null>(null);
  const record = async () => {
    const controller = new AbortController();
    stop.current = controller;
    setProgress(0);
    try {
      await recordAnimation(setProgress, controller.signal);
    } catch (error) {
      if (!controller.signal.aborted) tell(error);
    } finally {
      setProgress(null);
    }
  };
  return (
    <>
      <SectionTitle>Take along</SectionTitle>
      <div className="grid grid-cols-2 gap-1">
        <Button onClick={() => void savePicture().catch(tell)} title="PNG with legend and time">
          <Camera size={13} /> Picture
        </Button>
        {progress === null ? (
          <Button onClick={() => void record()} title="WebM of the filling with legend and time">
            <Clapperboard size={13} /> Animation
          </Button>
        ) : (
          <Button onClick={() => stop.current?.abort()} className="num" title="Stop recording">
            {Math.round(100 * progress)} % · Stop
          </Button>
        )}
        {fibresOf && (
          <Button
            onClick={saveFibres}
            disabled={!data?.fields.has('wallStiffness')}
            title="CSV: directions through the wall and stiffness, point by point"
          >
            <Table size={13} /> Fibres
          </Button>
        )}
      </div>
    </>
  );
}
