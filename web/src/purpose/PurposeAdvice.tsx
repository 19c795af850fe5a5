export function PurposeAdvice({ effect }: { effect: string | undefined }) {
  if (effect === 'cools')
    return (
      <>
        <h2>Why these few numbers</h2>
        <p>
          The working temperature chooses the sensor. The coldest allowed decides limits and alarms: a cooler that never stops gets there.
          The warmest it may get is what it is for.
        </p>
        <p>A compressor is switched on and off, with rests between: tuning and profiles are not for it.</p>
        <div className="caution">
          <strong>Software is not a safety device.</strong> Below the coldest allowed an independent limiter must stop the compressor, with
          its own sensor and its own switch.
        </div>
      </>
    )
  if (effect === 'watches')
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
