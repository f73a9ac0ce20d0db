-- name: insert_project
insert into project (slug, title) values (%(slug)s, %(title)s)
on conflict (slug) do nothing

-- name: list_projects
select p.id, p.slug, p.title, count(s.id) as sets
from project p left join texture_set s on s.project_id = p.id
group by p.id order by p.id

-- name: get_project
select id, slug, title from project where slug = %(slug)s

-- name: answer
select 1 as answer
