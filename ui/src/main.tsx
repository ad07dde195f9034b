import { QueryClientProvider } from '@tanstack/react-query'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { ErrorBoundary } from 'react-error-boundary'
import { client } from './api/queries'
import { App } from './app'
import { Fallen } from './frame/fallen'
import './index.css'

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <ErrorBoundary fallbackRender={() => <Fallen />}>
        <App />
      </ErrorBoundary>
    </QueryClientProvider>
  </StrictMode>,
)
