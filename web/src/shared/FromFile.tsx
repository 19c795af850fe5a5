import { useRef } from 'react'

/** A button that asks for a JSON file. ``label`` is what the field behind it is called. */
export function FromFile({ label, onFile }: { label: string; onFile: (file: File) => void }) {
  const picker = useRef<HTMLInputElement>(null)
  return (
    <>
      <button className="button" onClick={() => picker.current?.click()}>
        From a file
      </button>
      <input
        ref={picker}
        type="file"
        accept=".json"
        className="visually-hidden"
        aria-label={label}
        onChange={(e) => {
          const file = e.target.files?.[0]
          if (file) onFile(file)
          e.target.value = ''
        }}
      />
    </>
  )
}
