import { ChevronLeft, ChevronRight } from 'lucide-react';
import { useNavigate } from 'react-router';
import type { Job } from '../../contract/studio.ts';
import { plural } from '../lib/format.ts';
import { toStage } from '../lib/stages.ts';
import { Button } from '../ui/controls.tsx';

type Picture = Job['pictures'][number];

/** How far a picture has come, in a few words. */
const standing = ({ openFaults, treatedFaults }: Picture): string =>
  openFaults ? `${plural(openFaults, 'fault')} open` : treatedFaults ? 'nothing open' : 'not surveyed yet';

/** Ways to the previous and the next picture of the job; each says how far that has come. */
export function Neighbours({ job, pictureId }: { job: Job | undefined; pictureId: string }) {
  const navigate = useNavigate();
  const pictures = job?.pictures ?? [];
  const at = pictures.findIndex((p) => p.id === pictureId);
  if (at < 0 || pictures.length < 2) return null;
  return (
    <>
      {([-1, 1] as const).map((by) => {
        const to = pictures[at + by];
        const way = by < 0 ? 'Previous' : 'Next';
        const words = to
          ? `${way} picture: ${to.name}, ${standing(to)}`
          : `No ${way.toLowerCase()} picture in this job`;
        const Icon = by < 0 ? ChevronLeft : ChevronRight;
        return (
          <span key={by} title={words}>
            <Button
              kind="quiet"
              aria-label={words}
              isDisabled={!to}
              onPress={() => void navigate(toStage('Bench', { pictureId: to.id }))}
            >
              <Icon size={16} aria-hidden />
            </Button>
          </span>
        );
      })}
    </>
  );
}
