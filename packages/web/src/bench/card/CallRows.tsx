import type { ReactElement } from 'react';
import type { TextHost } from '../values/text-host.ts';
import { ArgumentRow } from './ArgumentRow.tsx';
import { rowsOf, type CallOfLine, type LineStatement } from './calls.ts';

/** The arguments of a call, one row each. */
export function CallRows({
  host,
  statement,
  of,
  dials,
}: {
  readonly host: TextHost;
  readonly statement: LineStatement;
  readonly of: CallOfLine;
  /** Whether values can be made dials here. */
  readonly dials: boolean;
}): ReactElement {
  return (
    <>
      {rowsOf(host.program(), of).map(({ parameter, argument }) => (
        <ArgumentRow
          key={parameter.name}
          host={host}
          statement={statement}
          call={of.call}
          parameter={parameter}
          argument={argument}
          dials={dials}
        />
      ))}
    </>
  );
}
