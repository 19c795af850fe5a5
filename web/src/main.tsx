import '@fontsource/barlow-semi-condensed/latin-500.css'
import '@fontsource/barlow-semi-condensed/latin-600.css'
import '@fontsource/barlow-semi-condensed/latin-700.css'
import '@fontsource/barlow-semi-condensed/latin-ext-500.css'
import '@fontsource/red-hat-mono/latin-500.css'
import '@fontsource/red-hat-mono/latin-700.css'
import './look/tokens.css'
import './look/base.css'
import './look/shell.css'
import createCache from '@emotion/cache'
import { CacheProvider } from '@emotion/react'
import { ThemeProvider } from '@mui/material/styles'
import { QueryClientProvider } from '@tanstack/react-query'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { BrowserRouter } from 'react-router'
import { newQueries } from './api/queries'
import { App } from './app'
import { theme } from './look/theme'
import { Preferences } from './shell/preferences'

const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content
const cache = createCache({ key: 'rx', nonce, prepend: true })
const queries = newQueries()

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <CacheProvider value={cache}>
      <ThemeProvider theme={theme}>
        <QueryClientProvider client={queries}>
          <Preferences>
            <BrowserRouter>
              <App />
            </BrowserRouter>
          </Preferences>
        </QueryClientProvider>
      </ThemeProvider>
    </CacheProvider>
  </StrictMode>,
)
