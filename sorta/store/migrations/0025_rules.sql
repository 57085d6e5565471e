-- A storm stops a rule's answering only; the rest of the rule goes on.

alter table rule
  -- since when it answers no more by itself; `off_reason` says why
  add column answers_off_at timestamptz,
  -- since when its answers are counted towards a storm: a member has let it answer again
  add column answers_since timestamptz;
-- a rule without a condition acts on nothing now: that it acts on every message is said
update rule set body = jsonb_set(body, '{when,parts}', '[{"type": "anything"}]')
where body->'when'->'parts' = '[]' and coalesce(body->'when'->>'of', 'all') <> 'any';
update rule set answers_off_at = changed_at where off_reason is not null and not switched_on;
