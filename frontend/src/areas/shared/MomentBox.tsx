import { DatePicker } from "@mui/x-date-pickers/DatePicker";
import { DateTimePicker } from "@mui/x-date-pickers/DateTimePicker";
import dayjs, { type Dayjs } from "dayjs";

/** As the centre writes them: the day before the month, and hours from 0 to 23. */
const DATE = "DD MMM YYYY";
const MOMENT = `${DATE}, HH:mm`;

interface Props {
  label: string;
  /** `2027-12-31`, or with a time `2027-12-31T23:59`, of the centre's clock; empty for none. */
  value: string;
  disabled?: boolean;
  required?: boolean;
  error?: boolean;
  helperText?: string;
  change: (value: string) => void;
}

/** What both pickers are given; half of a date is none yet. */
function shared({ label, value, disabled, required, error, helperText, change }: Props, kept: string) {
  return {
    label,
    disabled,
    value: value ? dayjs(value) : null,
    onChange: (picked: Dayjs | null) => {
      if (picked === null || picked.isValid()) change(picked?.format(kept) ?? "");
    },
    slotProps: { field: { clearable: true }, textField: { size: "small" as const, required, error, helperText } },
  };
}

/** A date and time, typed or picked. */
export function MomentBox(props: Props) {
  return (
    <DateTimePicker
      {...shared(props, "YYYY-MM-DDTHH:mm")}
      format={MOMENT}
      ampm={false}
      timeSteps={{ minutes: 5 }}
      sx={{ maxWidth: 280 }}
    />
  );
}

/** A date, typed or picked. */
export function DateBox(props: Props) {
  return <DatePicker {...shared(props, "YYYY-MM-DD")} format={DATE} />;
}
