"""The live link: a plan that a running game reads, asks and edits, as JSON-RPC 2.0 over WebSocket. No Qt."""
