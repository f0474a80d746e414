import { useEffect, useEffectEvent, useState } from 'react';

/** Takes files that are dropped anywhere on the page; true while some are held over it. */
export function useDroppedFiles(take: (files: File[]) => void): boolean {
  const [over, setOver] = useState(false);
  const taken = useEffectEvent(take);
  useEffect(() => {
    const held = (e: DragEvent) => {
      if (!e.dataTransfer?.types.includes('Files')) return;
      e.preventDefault();
      setOver(true);
    };
    const leave = (e: DragEvent) => e.relatedTarget === null && setOver(false);
    const drop = (e: DragEvent) => {
      const dropped = [...(e.dataTransfer?.files ?? [])];
      if (!dropped.length) return;
      e.preventDefault();
      setOver(false);
      taken(dropped);
    };
    window.addEventListener('dragover', held);
    window.addEventListener('dragleave', leave);
    window.addEventListener('drop', drop);
    return () => {
      window.removeEventListener('dragover', held);
      window.removeEventListener('dragleave', leave);
      window.removeEventListener('drop', drop);
    };
  }, []);
  return over;
}

export const DropHere = ({ children }: { children: string }) => (
  <div className="border-petrol bg-petrol-wash/80 pointer-events-none fixed inset-3 z-50 grid place-items-center rounded-lg border-2 border-dashed text-[16px]">
    {children}
  </div>
);

let arriving: File[] | null = null;

/** Hands files to the page of a project that is opened next. */
export const sendAlong = (files: File[]): void => void (arriving = files);

/** Files that this page was opened with, once. */
export function takeArriving(): File[] | null {
  const files = arriving;
  arriving = null;
  return files;
}
