import { Component, type ReactNode } from "react";

/** What stands in a screen's place when it could not be loaded or shown, instead of an empty page. */
export class Broken extends Component<{ children: ReactNode }, { broken: boolean }> {
  state = { broken: false };

  static getDerivedStateFromError() {
    return { broken: true };
  }

  render() {
    if (!this.state.broken) return this.props.children;
    return (
      <main className="screen">
        <h1>This screen could not be shown</h1>
        <p>
          What the server has acknowledged is safe.{" "}
          <button type="button" className="plain" onClick={() => window.location.reload()}>
            Reload the page
          </button>{" "}
          or <a href="/">go to my work</a>.
        </p>
      </main>
    );
  }
}
