import { Box, Button, Typography } from '@mui/material';
import { Component, type ReactNode } from 'react';

/** Keeps a failure inside one part of the page: says what broke and offers to try again. */
export class ErrorBoundary extends Component<
  { readonly part: string; readonly children: ReactNode },
  { error: Error | undefined }
> {
  override state: { error: Error | undefined } = { error: undefined };

  static getDerivedStateFromError(error: Error): { error: Error } {
    return { error };
  }

  override render(): ReactNode {
    const { error } = this.state;
    if (!error) return this.props.children;
    return (
      <Box role="alert" sx={{ p: 2 }}>
        <Typography variant="h2">The {this.props.part} stopped working</Typography>
        <Typography sx={{ my: 1, color: 'text.secondary' }}>{error.message}</Typography>
        <Button
          variant="outlined"
          onClick={() => {
            this.setState({ error: undefined });
          }}
        >
          Try again
        </Button>
      </Box>
    );
  }
}
