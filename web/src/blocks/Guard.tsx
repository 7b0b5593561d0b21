import { Component, type ReactNode } from "react";
import css from "./Guard.module.css";
import { Press } from "./Press";

/** Catches a fault in a page. The job is kept by the server at every step, so that reloading loses nothing. */
export class Guard extends Component<{ children: ReactNode }, { fault: Error | null }> {
  override state = { fault: null as Error | null };

  static getDerivedStateFromError(fault: Error) {
    return { fault };
  }

  override render() {
    const { fault } = this.state;
    if (!fault) return this.props.children;
    return (
      <div className={css.guard} role="alert">
        <h1>This page has stopped</h1>
        <p>The fault is ours. Your job is kept as it was after your last step; nothing is lost.</p>
        <p className="soft">{fault.message}</p>
        <Press onClick={() => window.location.reload()}>Reload the page</Press>
      </div>
    );
  }
}
