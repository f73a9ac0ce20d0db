-- name: next_due
-- A set that was not looked over as it is, once it has rested, what was changed last first.
select s.id from texture_set s left join checklist c on c.set_id = s.id
where s.deleted_at is null
  and (c.set_id is null or c.version <> s.version or c.rules <> %(rules)s)
  and s.updated_at <= now() - %(rest)s * interval '1 second'
order by s.updated_at desc, s.id limit 1

-- name: known
select findings, problem from checklist where key = %(key)s limit 1

-- name: put
insert into checklist (set_id, version, rules, key, findings, problem)
select %(set_id)s, %(version)s, %(rules)s, %(key)s, %(findings)s, %(problem)s
where exists (select 1 from texture_set where id = %(set_id)s)
on conflict (set_id) do update set version = excluded.version, rules = excluded.rules,
  key = excluded.key, findings = excluded.findings, problem = excluded.problem

-- name: of_sets
-- What was found in sets as they are now or were when they were last looked over.
select s.id as set_id, c.findings, c.problem, c.key,
  coalesce(c.version = s.version, false) as current,
  coalesce((select array_agg(p.finding order by p.finding) from ignored_finding p
            where p.set_id = s.id), '{}') as ignored
from texture_set s left join checklist c on c.set_id = s.id
where s.id = any(%(ids)s) and s.deleted_at is null
order by s.id

-- name: suppressed
select set_id, finding from ignored_finding where set_id = any(%(ids)s) order by set_id, finding

-- name: findings_of_project
-- For each set of a project whether it was looked over as it is, and what is open in it, in few
-- words: the list has no room for more.
select s.id as set_id,
  coalesce(c.version = s.version and c.rules = %(rules)s, false) as current,
  f ->> 'rule' as rule, f ->> 'kind' as kind, f ->> 'weight' as weight
from texture_set s
  left join checklist c on c.set_id = s.id
  left join lateral jsonb_array_elements(c.findings) with ordinality as e(f, n)
    on not exists (
      select 1 from ignored_finding p
      where p.set_id = c.set_id and p.finding = concat(f ->> 'rule', ':', f ->> 'kind')
    )
where s.project_id = %(project_id)s and s.deleted_at is null
order by s.id, e.n

-- name: ignore
insert into ignored_finding (set_id, finding) values (%(set_id)s, %(finding)s) on conflict do nothing

-- name: unignore
delete from ignored_finding where set_id = %(set_id)s and finding = %(finding)s
