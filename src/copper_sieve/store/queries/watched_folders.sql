-- name: put_folder
insert into watched_folder (project_id, path, watching) values (%(project_id)s, %(path)s, %(watching)s)
on conflict (project_id, path) do update set watching = excluded.watching, read_at = null
returning id

-- name: remove_folder
delete from watched_folder where id = %(id)s and project_id = %(project_id)s returning id

-- name: of_project
select f.id, f.project_id, p.slug, f.path, f.watching, f.read_at, f.problem,
  count(x.name) filter (where not x.deleted) as files,
  count(x.name) filter (where x.deleted) as deleted,
  coalesce(array_agg(x.problem order by x.name)
           filter (where x.problem is not null and not x.deleted), '{}') as refused
from watched_folder f
  join project p on p.id = f.project_id
  left join watched_file x on x.folder_id = f.id
where f.project_id = %(project_id)s
group by f.id, p.slug order by f.path

-- name: due
select f.id, f.project_id, p.slug, f.path, f.watching, f.read_at, f.problem,
  0 as files, 0 as deleted, '{}'::text[] as refused
from watched_folder f join project p on p.id = f.project_id
where p.deleted_at is null and (f.watching or f.read_at is null)
order by f.id

-- name: looked
update watched_folder set read_at = now(), problem = %(problem)s where id = %(id)s

-- name: files
select name, size, mtime_ns, sha256, deleted from watched_file where folder_id = %(id)s

-- name: put_file
insert into watched_file (folder_id, name, size, mtime_ns, sha256, problem)
select %(id)s, %(name)s, %(size)s, %(mtime_ns)s, %(sha256)s, %(problem)s
where exists (select 1 from watched_folder where id = %(id)s)
on conflict (folder_id, name) do update set size = excluded.size, mtime_ns = excluded.mtime_ns,
  sha256 = excluded.sha256, problem = excluded.problem, deleted = false

-- name: set_deleted
update watched_file set deleted = %(deleted)s where folder_id = %(id)s and name = any(%(names)s)
