import { useEffect, useState } from 'react';
import type { ViewportColours } from '@/viewer/fieldView';

const read = (): ViewportColours => {
  const style = getComputedStyle(document.documentElement);
  const value = (name: string) => style.getPropertyValue(name).trim();
  return {
    clay: value('--clay'),
    edge: value('--edge'),
    accent: value('--copper'),
    select: value('--petrol'),
    ink: value('--ink'),
    paper: value('--sheet'),
  };
};

/** The page's colours for the 3D view; follows the theme. */
export function useColours(): ViewportColours {
  const [colours, setColours] = useState<ViewportColours>({
    clay: '#cdc2b1',
    edge: '#4b4439',
    accent: '#a4551f',
    select: '#1c6470',
    ink: '#2a2520',
    paper: '#fbf8f2',
  });
  useEffect(() => {
    const update = () => setColours(read());
    update();
    window.addEventListener('bellows:theme', update);
    return () => window.removeEventListener('bellows:theme', update);
  }, []);
  return colours;
}
