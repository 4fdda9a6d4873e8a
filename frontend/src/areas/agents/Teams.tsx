import type { Schemas } from "../../api/client";
import { skills, supervisors, teams } from "../../api/resources";
import { picked } from "../shared/fields";
import { ConfigListPage } from "../shared/ConfigListPage";
import { UsedBy } from "../shared/UsedBy";

/** Agents who work together; queues can have whole teams as members. */
export function Teams() {
  return (
    <ConfigListPage<Schemas["Team"]>
      resource={teams}
      area="teams"
      base="/talk/teams"
      title="Teams"
      noun="team"
      titleOf={(team) => team.name}
      sort={[{ field: "name", sort: "asc" }]}
      empty="A team is a name that agents carry. Queues take whole teams as members, and handling rules can be set for a team."
      columns={[
        { field: "name", headerName: "Name", flex: 1, minWidth: 200 },
        {
          field: "supervisor_names",
          headerName: "Supervised by",
          flex: 1,
          minWidth: 180,
          sortable: false,
          valueFormatter: (value: string[]) => value.join(", "),
        },
        { field: "agent_count", headerName: "Agents", width: 110, align: "right", headerAlign: "right" },
      ]}
      initial={{ supervisors: [], talk_limit_s: 480, wrap_limit_s: 120, away_limit_s: 1800, missed_limit: 2 }}
      fields={[
        { kind: "text", name: "name", label: "Name", required: true },
        {
          kind: "many",
          name: "supervisors",
          label: "Supervised by",
          help: "They see these agents on the floor, and may change them.",
          ...picked(supervisors, (person) => person.name),
        },
        {
          kind: "number",
          name: "talk_limit_s",
          label: "Long talk over",
          unit: "s",
          help: "The floor points out who talks longer; 0: never.",
        },
        { kind: "number", name: "wrap_limit_s", label: "Long wrap-up over", unit: "s" },
        { kind: "number", name: "away_limit_s", label: "Away too long over", unit: "s" },
        { kind: "number", name: "missed_limit", label: "Missed rings", unit: "of the last 5" },
      ]}
      extra={(team) => <UsedBy resource={teams} id={team.id} />}
    />
  );
}

/** What agents can do, at levels from 1 to 10. */
export function Skills() {
  return (
    <ConfigListPage<Schemas["Skill"]>
      resource={skills}
      area="teams"
      base="/talk/skills"
      title="Skills"
      noun="skill"
      titleOf={(skill) => skill.name}
      sort={[{ field: "name", sort: "asc" }]}
      empty="A skill is what some agents can do and others cannot. Queues ask for it with a least level; languages are set at the agent."
      columns={[{ field: "name", headerName: "Name", flex: 1, minWidth: 200 }]}
      fields={[{ kind: "text", name: "name", label: "Name", required: true }]}
      extra={(skill) => <UsedBy resource={skills} id={skill.id} />}
    />
  );
}
