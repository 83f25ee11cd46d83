import '@fontsource-variable/bricolage-grotesque'
import '@fontsource-variable/figtree'
import { ChakraProvider } from '@chakra-ui/react'
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { App } from './app/App'
import { applyTheme, rememberedTheme, system } from './theme/system'

applyTheme(rememberedTheme())
document.documentElement.dataset.saving = 'no'
const queries = new QueryClient({ defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false } } })

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <ChakraProvider value={system}>
      <QueryClientProvider client={queries}>
        <App />
      </QueryClientProvider>
    </ChakraProvider>
  </StrictMode>,
)
