-- name: of_project
select target_id, folder, pattern, options from destination where project_id = %(project_id)s

-- name: put
insert into destination (project_id, target_id, folder, pattern, options)
values (%(project_id)s, %(target_id)s, %(folder)s, %(pattern)s, %(options)s)
on conflict (project_id, target_id) do update
set folder = excluded.folder, pattern = excluded.pattern, options = excluded.options

-- name: remove
delete from destination where project_id = %(project_id)s and target_id = %(target_id)s
