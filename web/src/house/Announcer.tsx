import { useAnnouncement } from "./announce";

/** The place where screen readers hear what has just happened. */
export function Announcer() {
  const says = useAnnouncement();
  return (
    <p
      className="visually-hidden"
      style={{ top: 0, left: 0, margin: 0 }}
      role="status"
      aria-label="What has just happened"
    >
      {says}
    </p>
  );
}
