import { Box, Portal } from '@chakra-ui/react'
import { useEffect, useLayoutEffect, useRef, useState } from 'react'

const ID = 'hint'
/** For how many milliseconds pointer or focus rests on something before it says what it does. */
const REST = 450
/** How far a hint keeps from what it is about and from the edges of the window, in pixels. */
const GAP = 6

/** The one tooltip of the page: what the element below the pointer, or the one with the focus, says as `data-hint`. */
export function Hints() {
  const [shown, setShown] = useState<{ text: string; box: DOMRect } | null>(null)
  useEffect(() => {
    let timer = 0
    let on: Element | null = null
    const leave = () => {
      clearTimeout(timer)
      on?.removeAttribute('aria-describedby')
      setShown(null)
    }
    const come = (target: Element | null) => {
      if (target === on) return
      leave()
      on = target
      if (!target) return
      timer = window.setTimeout(() => {
        const text = target.getAttribute('data-hint')
        if (!text || !target.isConnected) return
        target.setAttribute('aria-describedby', ID)
        setShown({ text, box: target.getBoundingClientRect() })
      }, REST)
    }
    const hinted = (e: Event) => (e.target instanceof Element ? e.target.closest('[data-hint]') : null)
    const over = (e: Event) => come(hinted(e))
    const focused = (e: FocusEvent) => (e.target as Element).matches(':focus-visible') && come(hinted(e))
    const blurred = () => come(null)
    const key = (e: KeyboardEvent) => e.key === 'Escape' && leave()
    addEventListener('pointerover', over)
    addEventListener('focusin', focused)
    addEventListener('focusout', blurred)
    // Pressed or moved away under the pointer it has been understood.
    addEventListener('pointerdown', leave, true)
    addEventListener('scroll', leave, true)
    addEventListener('keydown', key, true)
    return () => {
      leave()
      removeEventListener('pointerover', over)
      removeEventListener('focusin', focused)
      removeEventListener('focusout', blurred)
      removeEventListener('pointerdown', leave, true)
      removeEventListener('scroll', leave, true)
      removeEventListener('keydown', key, true)
    }
  }, [])
  return shown && <Shown {...shown} />
}

function Shown({ text, box }: { text: string; box: DOMRect }) {
  const self = useRef<HTMLDivElement>(null)
  // Below what it is about, or above where there is no room, and within the window.
  useLayoutEffect(() => {
    const { width, height } = self.current!.getBoundingClientRect()
    const left = Math.max(GAP, Math.min(innerWidth - GAP - width, box.x + box.width / 2 - width / 2))
    const top = box.bottom + GAP + height > innerHeight ? box.top - GAP - height : box.bottom + GAP
    Object.assign(self.current!.style, { left: `${left}px`, top: `${top}px` })
  })
  return (
    <Portal>
      <Box
        ref={self}
        id={ID}
        role="tooltip"
        position="fixed"
        zIndex="tooltip"
        pointerEvents="none"
        maxW="320px"
        bg="ink"
        color="card"
        fontSize="12px"
        fontWeight="500"
        px="2"
        py="1"
        borderRadius="soft"
      >
        {text}
      </Box>
    </Portal>
  )
}
