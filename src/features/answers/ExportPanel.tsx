import { Camera, Clapperboard } from 'lucide-react';
import { useRef, useState } from 'react';
import { tell } from '../study/store';
import { Button, SectionTitle } from '../ui/controls';
import { recordAnimation, savePicture } from './exportPicture';

/** Picture and animation of the view, with legend and time. */
export function ExportPanel() {
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
      </div>
    </>
  );
}
