-- name: insert_project
insert into project (slug, title) values (%(slug)s, %(title)s)
on conflict (slug) do nothing

-- name: list_projects
select p.id, p.slug, p.title, p.created_at, p.deleted_at, count(s.id) as sets,
  greatest(p.created_at, max(s.updated_at)) as changed_at,
  (coalesce(array_agg(s.id order by s.updated_at desc, s.id) filter (where s.id is not null), '{}'))[1:5]
    as latest
from project p left join texture_set s on s.project_id = p.id and s.deleted_at is null
where (p.deleted_at is not null) = %(deleted)s
group by p.id order by p.id

-- name: get_project
select id, slug, title, created_at, deleted_at from project where slug = %(slug)s

-- name: slug_of
select slug from project where id = %(id)s

-- name: add_project
insert into project (slug, title) values (%(slug)s, %(title)s)
on conflict (slug) do nothing
returning id, slug, title, created_at, deleted_at

-- name: change_project
update project set title = %(title)s, deleted_at = case when %(deleted)s then
  coalesce(deleted_at, now()) end
where slug = %(slug)s
returning id, slug, title, created_at, deleted_at

-- name: purge
delete from project where deleted_at < now() - %(days)s * interval '1 day'

-- name: answer
select 1 as answer
