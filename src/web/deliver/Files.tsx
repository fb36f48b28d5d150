import { EXPORTED, EXPORT_FORMATS, type ExportFormat } from '../../contract/exports.ts';
import { plural } from '../lib/format.ts';
import { Button } from '../ui/controls.tsx';
import { Rows } from './parts.ts';
import type { useExport } from './useExport.ts';

const GROUPS = [
  { group: 'picture', title: 'This picture' },
  { group: 'paper', title: 'For people to look at' },
  { group: 'aid', title: 'For other programs' },
] as const;

/** Every file that can be made of a picture, by what it is for. */
export function Files({
  depth,
  pending,
  exporting: { waiting, run },
}: {
  depth: number;
  /** repairs that are still being rendered */
  pending: number;
  exporting: ReturnType<typeof useExport>;
}) {
  const button = (format: ExportFormat) =>
    waiting?.format === format ? (
      <Button onPress={() => waiting.stop.abort()}>
        {pending > 0 ? `Waiting for ${plural(pending, 'repair')} · stop` : 'Preparing · stop'}
      </Button>
    ) : (
      <Button
        kind={format === 'tiff' ? 'main' : 'plain'}
        isDisabled={waiting !== null}
        onPress={() => void run(format)}
        aria-label={`Export ${EXPORTED[format].name}`}
      >
        Export
      </Button>
    );
  return GROUPS.map(({ group, title }) => (
    <div key={group} style={{ display: 'grid', gap: 8 }}>
      <h2>{title}</h2>
      <Rows>
        {EXPORT_FORMATS.filter((f) => EXPORTED[f].group === group).map((format) => (
          <section key={format} aria-label={EXPORTED[format].name}>
            <h3>{EXPORTED[format].name}</h3>
            <p>{EXPORTED[format].words(depth)}</p>
            {button(format)}
          </section>
        ))}
      </Rows>
    </div>
  ));
}
