-- name: put_folder
insert into followed_folder (project_id, path, keeps) values (%(project_id)s, %(path)s, %(keeps)s)
on conflict (project_id, path) do update set keeps = excluded.keeps, looked_at = null
returning id

-- name: remove_folder
delete from followed_folder where id = %(id)s and project_id = %(project_id)s returning id

-- name: of_project
select f.id, f.project_id, p.slug, f.path, f.keeps, f.looked_at, f.problem,
  count(x.name) filter (where not x.gone) as files,
  count(x.name) filter (where x.gone) as gone,
  coalesce(array_agg(x.problem order by x.name)
           filter (where x.problem is not null and not x.gone), '{}') as refused
from followed_folder f
  join project p on p.id = f.project_id
  left join followed_file x on x.folder_id = f.id
where f.project_id = %(project_id)s
group by f.id, p.slug order by f.path

-- name: due
select f.id, f.project_id, p.slug, f.path, f.keeps, f.looked_at, f.problem,
  0 as files, 0 as gone, '{}'::text[] as refused
from followed_folder f join project p on p.id = f.project_id
where p.deleted_at is null and (f.keeps or f.looked_at is null)
order by f.id

-- name: looked
update followed_folder set looked_at = now(), problem = %(problem)s where id = %(id)s

-- name: files
select name, size, mtime_ns, sha256, gone from followed_file where folder_id = %(id)s

-- name: put_file
insert into followed_file (folder_id, name, size, mtime_ns, sha256, problem)
select %(id)s, %(name)s, %(size)s, %(mtime_ns)s, %(sha256)s, %(problem)s
where exists (select 1 from followed_folder where id = %(id)s)
on conflict (folder_id, name) do update set size = excluded.size, mtime_ns = excluded.mtime_ns,
  sha256 = excluded.sha256, problem = excluded.problem, gone = false

-- name: set_gone
update followed_file set gone = %(gone)s where folder_id = %(id)s and name = any(%(names)s)
