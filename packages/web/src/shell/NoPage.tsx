import { Link, useParams } from 'react-router';
import { Empty } from '../parts/common/States.tsx';

/** An address within a course at which there is nothing. */
export function NoPage() {
  const id = useParams()['course'];
  return (
    <Empty title="There is no page at this address">
      <Link className="font-semibold text-pine underline" to={`/c/${id}/today`}>
        Open Today of this course
      </Link>
    </Empty>
  );
}
