import { Button } from "antd";
import { Component, type ReactNode } from "react";
import * as words from "./words";

/** A view that fails says so, and leaves the way out: what was entered is kept already. */
export class Boundary extends Component<{ children: ReactNode }, { failed: boolean }> {
  state = { failed: false };
  static getDerivedStateFromError() {
    return { failed: true };
  }
  render() {
    if (!this.state.failed) return this.props.children;
    return (
      <main className="page narrow">
        <p className="wrong" role="alert">
          {words.thisViewFailedWhat}
        </p>
        <Button type="primary" size="large" onClick={() => window.location.reload()}>
          {words.openItAgain}
        </Button>
      </main>
    );
  }
}
