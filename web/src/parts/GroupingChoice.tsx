import { Autocomplete, TextField } from '@mui/material';

import { useChoices } from '../api/queries';

/** A grouping to choose: searched by name, those used last first, each with what it would give on the column. */
export function GroupingChoice({
  label,
  kind,
  source,
  column,
  value,
  none,
  change,
}: {
  label: string;
  kind: 'tree' | 'calendar' | 'buckets';
  source: string;
  column: string;
  value: string;
  none: string;
  change: (name: string, levels: string[]) => void;
}) {
  const found = useChoices(kind, source, column).data ?? [];
  const bare = { name: '', gives: '', levels: [], problem: false };
  const options = found.some((c) => c.name === '') ? found : [bare, ...found];
  const now = options.find((c) => c.name === value) ?? { ...bare, name: value };
  return (
    <Autocomplete
      fullWidth
      disableClearable
      autoHighlight
      options={options}
      value={now}
      getOptionLabel={(choice) => choice.name || none}
      getOptionKey={(choice) => choice.name}
      getOptionDisabled={(choice) => choice.problem}
      isOptionEqualToValue={(a, b) => a.name === b.name}
      onChange={(_, choice) => change(choice.name, choice.levels)}
      renderInput={(params) => (
        <TextField {...params} label={label} helperText={now.problem ? undefined : now.gives} />
      )}
      renderOption={({ key, ...props }, choice) => (
        <li key={key} {...props} style={{ display: 'block', fontSize: 13.5 }}>
          {choice.name || none}
          <div className="quiet" style={{ fontSize: 12 }}>
            {choice.gives}
          </div>
        </li>
      )}
    />
  );
}
