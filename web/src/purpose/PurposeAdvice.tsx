export function PurposeAdvice() {
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
