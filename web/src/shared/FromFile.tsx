import { useRef } from 'react'

interface Props {
  /** What the field behind the button is called. */
  label: string
  onFile: (file: File) => void
  words?: string
  accept?: string
  disabled?: boolean
}

/** A button that asks for a file: a JSON file unless said otherwise. */
export function FromFile({ label, onFile, words = 'From a file', accept = '.json', disabled }: Props) {
  const picker = useRef<HTMLInputElement>(null)
  return (
    <>
      <button type="button" className="button" disabled={disabled} onClick={() => picker.current?.click()}>
        {words}
      </button>
      <input
        ref={picker}
        type="file"
        accept={accept}
        className="visually-hidden"
        aria-label={label}
        disabled={disabled}
        onChange={(e) => {
          const file = e.target.files?.[0]
          if (file) onFile(file)
          e.target.value = ''
        }}
      />
    </>
  )
}
