export function Mark() {
  return (
    <svg width="26" height="18" viewBox="0 0 26 18" aria-hidden="true">
      <path d="M1 6c3 0 3 4 6 4s3-4 6-4 3 4 6 4 3-4 6-4" />
      <path d="M1 13c3 0 3 4 6 4s3-4 6-4 3 4 6 4 3-4 6-4" opacity=".45" />
    </svg>
  );
}
