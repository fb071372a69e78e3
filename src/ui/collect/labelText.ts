/** Labels as a person types them: `team=boarding, site=skerry`. */
export const labelText = (labels: Record<string, string>) =>
  Object.entries(labels)
    .map(([key, value]) => `${key}=${value}`)
    .join(", ");
