/** The options of a list. */
export function Options(props: { of: Record<string, string>; placeholder?: string }) {
  return (
    <>
      {props.placeholder && <option value="">{props.placeholder}</option>}
      {Object.entries(props.of).map(([id, name]) => (
        <option key={id} value={id}>
          {name}
        </option>
      ))}
    </>
  );
}
