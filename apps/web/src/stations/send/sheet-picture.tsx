/** A small picture of a sheet as it will be cut. */
import { formatPath, mapOutline } from '@lorvek/core/geometry';
import { inkOn } from '@lorvek/model';
import type { PreparedSheet } from '@lorvek/model/prepare';
import { useMemo } from 'react';

export function SheetPicture({ sheet }: { sheet: PreparedSheet }) {
  const { laid, material, film } = sheet;
  const length = Math.max(50, laid.usedLengthMm);
  const [cut, weed] = useMemo(() => {
    const flip = (outline: PreparedSheet['cut']): string => formatPath(mapOutline([1, 0, 0, -1, 0, material.widthMm], outline), 1);
    return [flip(sheet.cut), flip(sheet.weed)];
  }, [sheet, material.widthMm]);
  return (
    <svg
      viewBox={`0 0 ${length} ${material.widthMm}`}
      className="h-28 w-full border border-line-strong bg-desk"
      role="img"
      aria-label={`Sheet of ${film.name}`}
      preserveAspectRatio="xMidYMid meet"
    >
      <rect width={length} height={material.widthMm} fill={film.hex} />
      <path d={cut} fill={`${inkOn(film.hex)}1f`} stroke={inkOn(film.hex)} strokeWidth={1.2} vectorEffect="non-scaling-stroke" />
      <path d={weed} fill="none" stroke={inkOn(film.hex)} opacity={0.5} vectorEffect="non-scaling-stroke" />
    </svg>
  );
}
