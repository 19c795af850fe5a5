import { Component, type ReactNode } from 'react'

/** Keeps a mistake in one station from taking the whole page with it. */
export class Guard extends Component<{ children: ReactNode }, { failed: boolean }> {
  state = { failed: false }

  static getDerivedStateFromError() {
    return { failed: true }
  }

  render() {
    if (!this.state.failed) return this.props.children
    return (
      <div className="empty" role="alert">
        <h1>This station could not be shown</h1>
        <p>Nothing was lost: what you saved is kept, and recording goes on.</p>
        <button className="button main" onClick={() => this.setState({ failed: false })}>
          Try again
        </button>
      </div>
    )
  }
}
