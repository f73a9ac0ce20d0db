-- name: delete_unused
-- Originals that nothing refers to. A row that somebody is about to refer to is locked: skipped.
with unused as (
  select s.sha256 from source s
  where s.imported_at < now() - %(seconds)s * interval '1 second'
    and (%(only)s::text[] is null or s.sha256 = any(%(only)s))
    and not exists (select from arrival a where a.sha256 = s.sha256)
    and not exists (select from texture_set_source t where t.sha256 = s.sha256)
    and not exists (select from recipe_source r where r.sha256 = s.sha256)
    and not exists (select from model m where m.sha256 = s.sha256)
    and not exists (select from environment u where u.sha256 = s.sha256)
    and not exists (
      select from delivery_part p where p.state in ('queued', 'running')
        and position(s.sha256 in p.definition::text) > 0
    )
  for update skip locked
)
delete from source s using unused u where s.sha256 = u.sha256 returning s.bytes

-- name: purge_accepted
-- Files in Intake whose set was purged.
delete from arrival where state = 'accepted' and set_id is null

-- name: purge_sets
delete from texture_set where deleted_at is not null and project_id = %(project_id)s

-- name: purge_dismissed
delete from arrival where dismissed_at is not null and project_id = %(project_id)s

-- name: originals
-- Of a project: all that it refers to, what other projects or recipes refer to as well, and what is
-- only in its trash.
with refs as (
  select t.sha256, s.project_id, s.deleted_at is not null as in_trash
  from texture_set_source t join texture_set s on s.id = t.set_id
  union all
  select a.sha256, a.project_id, case when a.state = 'accepted' then coalesce(s.deleted_at is not null, true)
    else a.dismissed_at is not null end
  from arrival a left join texture_set s on s.id = a.set_id
  union all select sha256, project_id, false from model
  union all select sha256, project_id, false from environment
  union all select sha256, null, false from recipe_source
), per as (
  select sha256, bool_or(project_id is distinct from %(project_id)s) as shared,
    bool_and(in_trash) as in_trash
  from refs group by sha256 having bool_or(project_id = %(project_id)s)
)
select count(*) as files, coalesce(sum(bytes), 0)::bigint as bytes,
  coalesce(sum(bytes) filter (where shared), 0)::bigint as shared_bytes,
  count(*) filter (where in_trash and not shared) as trash_files,
  coalesce(sum(bytes) filter (where in_trash and not shared), 0)::bigint as trash_bytes
from per join source using (sha256)

-- name: trash
select (select count(*) from texture_set where project_id = %(project_id)s and deleted_at is not null)
  as trash_sets,
  (select count(*) from arrival where project_id = %(project_id)s and dismissed_at is not null)
  as trash_arrivals

-- name: delivered
-- What the newest delivery into each folder wrote.
select count(*) as files, coalesce(sum((e ->> 'bytes')::bigint), 0)::bigint as bytes from (
  select distinct on (p.folder, p.manifest_name) p.manifest
  from delivery_part p join delivery d on d.id = p.delivery_id
  where d.project_id = %(project_id)s and p.manifest is not null
  order by p.folder, p.manifest_name, p.finished_at desc
) newest, lateral (
  select * from json_array_elements(newest.manifest -> 'files')
  union all select * from json_array_elements(coalesce(newest.manifest -> 'documents', '[]'))
) entries (e)

-- name: trash_originals
select t.sha256 from texture_set_source t join texture_set s on s.id = t.set_id
where s.project_id = %(project_id)s and s.deleted_at is not null
union
select sha256 from arrival where project_id = %(project_id)s and dismissed_at is not null
