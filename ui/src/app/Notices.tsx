// What there is to say, where nobody works: in the dock. It goes by itself, but an error stays until it is put away.
import { CloseOutlined } from '@ant-design/icons';
import { Button } from 'antd';
import { useEffect } from 'react';
import './notice.css';
import { useBench } from './state';

const shownS = 7;
/** something that may be done about it needs a moment to decide */
const offeredS = 14;

/** The newest notice; low: the dock is shut, and there is one line for it. */
export function Notices({ low }: { low: boolean }) {
  const notice = useBench((s) => s.notice);
  const shut = () => useBench.setState((s) => (s.notice === notice ? { notice: null } : s));
  useEffect(() => {
    if (!notice || notice.error) return undefined;
    const soon = setTimeout(
      () => useBench.setState((s) => (s.notice === notice ? { notice: null } : s)),
      1000 * (notice.offer ? offeredS : shownS),
    );
    return () => clearTimeout(soon);
  }, [notice]);
  if (!notice) return null;
  const { offer } = notice;
  return (
    <div
      className={`notice ${low ? 'low' : ''} ${notice.error ? 'error' : ''}`}
      data-id="notice"
      role={notice.error ? 'alert' : 'status'}
    >
      <span className="said" title={`${notice.title}. ${notice.detail}`}>
        <b>
          {notice.error && <span aria-hidden="true">! </span>}
          {notice.title}
        </b>{' '}
        <span className="detail">{notice.detail}</span>
      </span>
      {offer && (
        <Button
          size="small"
          data-id="notice-offer"
          onClick={() => {
            shut();
            offer.go();
          }}
        >
          {offer.does}
        </Button>
      )}
      <Button
        type="text"
        size="small"
        icon={<CloseOutlined />}
        aria-label="Put the notice away"
        onClick={shut}
      />
    </div>
  );
}
