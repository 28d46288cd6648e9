import { Component, type ErrorInfo, type ReactNode } from "react";

/** Shows a fault of ours instead of an empty page, and logs it. */
export class Boundary extends Component<{ children: ReactNode }, { fault: Error | null }> {
  state = { fault: null as Error | null };

  static getDerivedStateFromError(fault: Error) {
    return { fault };
  }

  componentDidCatch(fault: Error, info: ErrorInfo) {
    console.error(fault, info.componentStack);
  }

  render() {
    if (!this.state.fault) return this.props.children;
    return (
      <div className="home">
        <h2>A fault of ours</h2>
        <p>{this.state.fault.message}</p>
        <p className="quiet">Everything that was given is kept. Reload the page to go on.</p>
        <button type="button" onClick={() => location.assign("/projects")}>
          Go to the projects
        </button>
      </div>
    );
  }
}
