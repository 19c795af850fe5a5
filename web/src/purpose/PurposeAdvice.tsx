export function PurposeAdvice({ watches }: { watches: boolean }) {
  if (watches)
    return (
      <>
        <h2>Why these few numbers</h2>
        <p>The usual temperature and the bounds choose the sensor and set the alarms. The supply feeds the instrument.</p>
        <div className="caution">
          <strong>An alarm protects nothing by itself.</strong> Somebody must hear it, in time, and know what to do.
        </div>
      </>
    )
  return (
    <>
      <h2>Why these few numbers</h2>
      <p>
        The working temperature chooses the sensor. The highest allowed decides limits and alarms. Supply and nameplate decide current, wire
        and switch.
      </p>
      <p>There is often a lower limit too: below it condensation forms, or glue does not set.</p>
      <div className="caution">
        <strong>Software is not a safety device.</strong> Above the highest allowed temperature an independent limiter must take the heat
        away, with its own sensor and its own switch.
      </div>
    </>
  )
}
