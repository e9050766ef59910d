// One of a few, side by side: a single stop for the keyboard, in which the arrows choose.
import { Segmented, type SegmentedProps } from 'antd';

/** name says what is chosen, to who does not see what stands beside it. */
export function Choice<T>({
  name,
  ...rest
}: Omit<SegmentedProps<T>, 'size' | 'ref' | 'name'> & { name: string }) {
  // the group itself would be a second stop
  return <Segmented<T> size="small" aria-label={name} tabIndex={-1} {...rest} />;
}
