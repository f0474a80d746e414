import { FileUp } from 'lucide-react';
import Papa from 'papaparse';
import { useRef, useState } from 'react';
import type { Polyline } from '@/core/formats/dxf';
import { polylinesOfRows } from '@/core/feed/polylines';
import { readDxfLines } from '@/core/formats/dxf';
import { FormatError } from '@/core/formats/formatError';
import { toSi, type LengthUnit } from '@/core/units/units';
import { Button, Choice } from '../ui/controls';

/** Polylines from CSV (x, y, z, diameter) or DXF; the files carry no unit, so it is asked for. */
export function LineImport({
  name,
  onLines,
}: {
  /** What the lines are, for those who hear the page. */
  name: string;
  onLines: (file: string, lines: Polyline[]) => void;
}) {
  const input = useRef<HTMLInputElement>(null);
  const [unit, setUnit] = useState<LengthUnit>('mm');
  const [problem, setProblem] = useState<{ message: string; remedy: string } | null>(null);
  const read = async (file: File) => {
    setProblem(null);
    try {
      const text = await file.text();
      const scale = toSi(1, unit);
      const polylines = /\.dxf$/i.test(file.name)
        ? readDxfLines(text, scale)
        : polylinesOfRows(Papa.parse<string[]>(text, { skipEmptyLines: false }).data, scale);
      onLines(file.name, polylines);
    } catch (error) {
      setProblem(
        error instanceof FormatError
          ? { message: error.message, remedy: error.remedy }
          : { message: (error as Error).message, remedy: 'Choose a CSV or DXF file.' },
      );
    }
  };
  return (
    <div>
      <div className="flex gap-1">
        <Button className="flex-1" onClick={() => input.current?.click()}>
          <FileUp size={13} /> CSV or DXF
        </Button>
        <div className="w-28">
          <Choice
            label="Unit of the file"
            value={unit}
            options={[
              { value: 'mm', label: 'mm' },
              { value: 'in', label: 'in' },
            ]}
            onChange={(v) => setUnit(v as LengthUnit)}
          />
        </div>
      </div>
      <input
        ref={input}
        type="file"
        accept=".csv,.txt,.dxf"
        className="hidden"
        aria-label={`File with ${name}`}
        onChange={(e) => {
          const [file] = e.target.files ?? [];
          if (file) void read(file);
          e.target.value = '';
        }}
      />
      {problem && (
        <p className="mt-1 text-[12px]" role="alert">
          <span className="text-problem">{problem.message}</span> <span className="text-soft">{problem.remedy}</span>
        </p>
      )}
    </div>
  );
}
