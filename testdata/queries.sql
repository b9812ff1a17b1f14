SELECT 1
SELECT count(*) FROM loads
SELECT count(*) AS n, count(DISTINCT farm_id), sum(litres) / count(*) FROM loads WHERE status = 'acc'
SELECT DISTINCT district FROM farms ORDER BY district
SELECT farm_id, litres FROM loads ORDER BY litres DESC, farm_id LIMIT 5 OFFSET 2
SELECT farm_id, litres FROM loads ORDER BY litres LIMIT 10 PERCENT
SELECT farm_id FROM loads ORDER BY litres + 1 DESC NULLS LAST LIMIT 3
SELECT farm_id FROM loads ORDER BY loaded_at DESC LIMIT 3
SELECT farm_id, sum(litres) FROM loads GROUP BY farm_id ORDER BY sum(litres) DESC LIMIT 3
SELECT farm_id, sum(litres) FROM loads GROUP BY farm_id ORDER BY avg(litres) DESC, farm_id LIMIT 3
SELECT farm_id, sum(litres) AS s FROM loads GROUP BY 1 HAVING sum(litres) > 1000 ORDER BY 2 DESC, 1
SELECT farm_id, status, count(*) FROM loads GROUP BY ALL ORDER BY ALL
SELECT farm_id, status, count(*) FROM loads GROUP BY GROUPING SETS ((farm_id), (status), ())
SELECT farm_id, count(*) FROM loads GROUP BY ROLLUP (farm_id)
SELECT f.name, sum(l.litres) AS litres FROM farms f JOIN loads l ON l.farm_id = f.farm_id WHERE l.status = 'acc' GROUP BY f.name
SELECT f.name, count(l.load_id) FROM farms f LEFT JOIN loads l USING (farm_id) GROUP BY f.name
SELECT f.name FROM farms f RIGHT JOIN loads l USING (farm_id)
SELECT f.name FROM farms f FULL JOIN loads l ON f.farm_id = l.farm_id AND l.litres > 5
SELECT count(*) FROM farms, loads WHERE farms.farm_id = loads.farm_id
SELECT count(*) FROM farms CROSS JOIN codes
SELECT count(*) FROM farms NATURAL JOIN loads
SELECT f.name FROM farms f SEMI JOIN loads l USING (farm_id)
SELECT f.name FROM farms f ANTI JOIN loads l USING (farm_id)
SELECT f.name FROM farms f WHERE NOT EXISTS (SELECT 1 FROM loads l WHERE l.farm_id = f.farm_id)
SELECT name FROM farms WHERE farm_id IN (SELECT farm_id FROM loads WHERE litres > 5000)
SELECT name FROM farms WHERE farm_id NOT IN (SELECT farm_id FROM loads)
SELECT name FROM farms WHERE district IN ('MR', 'NV') AND NOT organic
SELECT name FROM farms WHERE district = 'MR' OR district = 'NV' OR organic
SELECT name FROM farms WHERE name LIKE 'A%' AND name NOT ILIKE '%b' AND name IS NOT NULL
SELECT name FROM farms WHERE lower(trim(name)) = 'alder field'
SELECT count(*) FROM loads WHERE litres BETWEEN 5 AND 9
SELECT count(*) FROM loads WHERE litres NOT BETWEEN 5 AND 9
SELECT count(*) FROM loads WHERE 5 < litres AND litres <= 9 AND litres <> 7
SELECT count(*) FROM loads WHERE loaded_at >= DATE '2031-05-01' AND loaded_at < DATE '2031-06-01'
SELECT count(*) FROM loads WHERE loaded_at >= '2031-05-01' AND loaded_at <= '2031-05-31'
SELECT count(*) FROM loads WHERE year(loaded_at) = 2031 AND month(loaded_at) = 5
SELECT count(*) FROM loads WHERE date_trunc('month', loaded_at) = DATE '2031-05-01'
SELECT count(*) FROM loads WHERE loaded_at::DATE = DATE '2031-05-01'
SELECT count(*) FROM loads WHERE loaded_at > current_date - INTERVAL 30 DAY
SELECT count(*) FROM loads WHERE loaded_at > now() - INTERVAL 1 MONTH AND loaded_at < today()
SELECT count(*) FROM loads WHERE strftime(loaded_at, '%Y-%m') = '2031-05'
SELECT date_trunc('month', loaded_at) AS month, sum(litres) FROM loads GROUP BY 1 ORDER BY 1
SELECT year(loaded_at), quarter(loaded_at), sum(litres) FROM loads GROUP BY 1, 2 ORDER BY 1, 2
SELECT extract(dow FROM loaded_at) AS weekday, count(*) FROM loads GROUP BY weekday
SELECT CASE WHEN litres > 1000 THEN 'big' WHEN litres > 500 THEN 'middle' ELSE 'small' END AS size, count(*) FROM loads GROUP BY size
SELECT CASE status WHEN 'acc' THEN 1 ELSE 0 END FROM loads
SELECT sum(CASE WHEN status = 'rej' THEN 1 ELSE 0 END) * 100.0 / count(*) AS share FROM loads
SELECT count(*) FILTER (WHERE status = 'rej') * 1.0 / count(*) FROM loads
SELECT avg(CASE WHEN status = 'rej' THEN 1.0 ELSE 0 END) FROM loads
SELECT round(avg(fat_pct), 2), round(sum(litres)) FROM loads JOIN lab_tests USING (load_id)
SELECT coalesce(fat_pct, 0), nullif(litres, 0), litres::INTEGER, CAST(litres AS VARCHAR) FROM loads JOIN lab_tests USING (load_id)
SELECT -litres, litres * 2 + 1, litres / 100 % 7, NOT organic, name || ' of ' || district FROM loads JOIN farms USING (farm_id)
SELECT min(litres), max(litres), median(litres), quantile_cont(litres, 0.9), stddev(litres), any_value(status) FROM loads
SELECT arg_max(farm_id, litres), string_agg(status, ', ' ORDER BY status DESC), list(farm_id) FROM loads
SELECT farm_id, litres, sum(litres) OVER (PARTITION BY farm_id ORDER BY loaded_at) AS running FROM loads
SELECT farm_id, litres - lag(litres, 1) OVER (ORDER BY loaded_at) FROM loads
SELECT farm_id, avg(litres) OVER (ORDER BY loaded_at ROWS BETWEEN 6 PRECEDING AND CURRENT ROW) FROM loads
SELECT farm_id, litres FROM loads QUALIFY row_number() OVER (PARTITION BY farm_id ORDER BY litres DESC) <= 2
SELECT farm_id, litres FROM loads QUALIFY rank() OVER (ORDER BY litres DESC) <= 3
SELECT farm_id, litres FROM (SELECT farm_id, litres, row_number() OVER (PARTITION BY farm_id ORDER BY litres DESC) AS place FROM loads) WHERE place = 1
SELECT farm_id, litres FROM (SELECT farm_id, litres, dense_rank() OVER (ORDER BY litres DESC) AS place FROM loads) ranked WHERE place < 4 ORDER BY litres DESC
WITH big AS (SELECT * FROM loads WHERE litres > 1000) SELECT farm_id, count(*) FROM big GROUP BY farm_id
WITH monthly AS (SELECT month(loaded_at) AS m, sum(litres) AS s FROM loads GROUP BY 1) SELECT avg(s) FROM monthly
WITH a AS (SELECT sum(litres) AS v FROM loads WHERE year(loaded_at) = 2030), b AS (SELECT sum(litres) AS v FROM loads WHERE year(loaded_at) = 2031) SELECT b.v / a.v - 1 FROM a, b
WITH RECURSIVE t(n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM t WHERE n < 5) SELECT sum(n) FROM t
SELECT s FROM (SELECT farm_id, sum(litres) AS s FROM loads GROUP BY farm_id) totals WHERE s > (SELECT avg(litres) FROM loads)
SELECT name, (SELECT sum(litres) FROM loads l WHERE l.farm_id = f.farm_id) AS litres FROM farms f ORDER BY litres DESC LIMIT 5
SELECT farm_id FROM loads WHERE litres = (SELECT max(litres) FROM loads)
SELECT farm_id FROM loads WHERE litres >= ALL (SELECT litres FROM loads)
SELECT farm_id FROM loads WHERE litres > ANY (SELECT litres FROM loads)
SELECT farm_id FROM loads UNION SELECT farm_id FROM payments
SELECT farm_id FROM loads UNION ALL SELECT farm_id FROM payments ORDER BY farm_id LIMIT 4
SELECT farm_id FROM loads EXCEPT SELECT farm_id FROM payments
SELECT farm_id FROM loads INTERSECT SELECT farm_id FROM payments
SELECT * FROM farms
SELECT f.*, l.litres FROM farms f JOIN loads l USING (farm_id)
SELECT * EXCLUDE (name) FROM farms
SELECT * REPLACE (upper(name) AS name) FROM farms
SELECT COLUMNS('.*_id') FROM loads
SELECT sum(net), sum(gross) - sum(deductions), sum(gross - deductions) FROM payments
SELECT sum(deductions) / sum(gross), avg(deductions / gross) FROM payments
SELECT p.farm_id, sum(p.net) FROM payments p JOIN farms f USING (farm_id) JOIN codes c ON c.kind = 'district' AND c.code = f.district WHERE c.label = 'Marsh Reach' GROUP BY p.farm_id
SELECT unnest([1, 2, 3]) AS n
SELECT * FROM range(5)
SELECT * FROM (VALUES (1, 'a'), (2, 'b')) v(n, t)
SELECT {'a': 1, 'b': 2}.a, [1, 2][1], list_transform([1, 2], x -> x + 1)
SELECT farm_id, date_diff('day', loaded_at, current_date) FROM loads
SELECT farm_id FROM loads WHERE (farm_id, status) IN ((1, 'acc'), (2, 'rej'))
SELECT farm_id FROM loads WHERE litres IS DISTINCT FROM 5
SELECT "farm_id" AS "Farm no", 'it''s' AS note FROM loads
PIVOT loads ON status USING sum(litres) GROUP BY farm_id
SELECT DISTINCT ON (farm_id) farm_id, litres FROM loads ORDER BY farm_id, litres DESC
SELECT count(*) FROM loads TABLESAMPLE 10 PERCENT
SELECT farm_id FROM loads WHERE random() < 0.5
SELECT m.farm_id FROM (SELECT farm_id, max(litres) AS most FROM loads GROUP BY farm_id) m JOIN loads l ON l.farm_id = m.farm_id AND l.litres = m.most
SELECT sum(gross) AS n FROM payments
SELECT sum(net) AS n FROM payments
SELECT round(sum(gross), 2) AS n FROM payments
SELECT coalesce(sum(gross), 0) AS n FROM payments
SELECT 0.01 * sum(gross) AS n FROM payments
SELECT avg(gross) AS n FROM payments
SELECT sum(gross - deductions) AS n FROM payments
SELECT sum(gross) FILTER (WHERE net > 5) AS n FROM payments
SELECT count(DISTINCT farm_id) AS n FROM payments
SELECT count(farm_id) AS n FROM payments
SELECT sum(litres) // count(*) AS n FROM loads
SELECT sum(litres) / count(*) AS n FROM loads
SELECT max(loaded_at) AS n FROM loads
SELECT max(loaded_at + INTERVAL 1 DAY) AS n FROM loads
SELECT status AS k, sum(litres) AS n FROM loads GROUP BY status
SELECT farm_id AS k, sum(litres) AS n FROM loads GROUP BY farm_id
SELECT load_id FROM loads QUALIFY row_number() OVER (PARTITION BY farm_id ORDER BY litres DESC, load_id DESC) = 1
SELECT load_id FROM loads QUALIFY row_number() OVER (PARTITION BY farm_id ORDER BY litres, load_id) = 1
WITH good AS (SELECT farm_id AS f, litres AS l FROM loads WHERE status = 'acc') SELECT name, sum(l) AS n FROM good JOIN farms ON farms.farm_id = good.f WHERE l > 5 GROUP BY name
SELECT name, count(*) FILTER (WHERE l.status = 'acc') AS n FROM farms f LEFT JOIN loads l ON l.farm_id = f.farm_id AND l.litres > 100 GROUP BY name
SELECT name FROM farms f WHERE EXISTS (SELECT 1 FROM loads l WHERE l.farm_id = f.farm_id AND l.litres > 9000) AND f.farm_id NOT IN (SELECT farm_id FROM payments)
SELECT a.load_id, count(*) AS n FROM loads a JOIN loads b ON b.load_id = a.farm_id GROUP BY a.load_id
SELECT district, count(CASE WHEN name = 'x' THEN 1 ELSE 0 END) AS x, count(CASE WHEN name = 'y' THEN 1 END) AS y FROM farms GROUP BY 1
SELECT farm_id, rank() OVER (PARTITION BY status, farm_id ORDER BY litres) AS place FROM loads
SELECT sum(deductions - gross) AS n FROM payments
SELECT sum(litres) FROM loads WHERE loaded_at >= DATE '2031-01-01' AND loaded_at < DATE '2031-02-01' AND status = 'acc'
SELECT count(*) FROM loads l JOIN farms f ON l.farm_id = f.farm_id AND l.litres > f.farm_id WHERE l.status = 'acc'
SELECT f.name, sum(l.litres) AS n FROM farms f JOIN loads l ON l.farm_id = f.farm_id WHERE l.status = 'acc' AND l.loaded_at BETWEEN DATE '2031-01-01' AND DATE '2031-03-31' GROUP BY f.name HAVING count(*) >= 3 ORDER BY n DESC LIMIT 5
SELECT name, n FROM (SELECT f.name, sum(CASE WHEN l.status = 'acc' THEN l.litres ELSE 0 END) AS n, rank() OVER (ORDER BY sum(l.litres) DESC) AS place FROM farms f LEFT JOIN loads l USING (farm_id) WHERE l.loaded_at >= '2031-01-01' AND l.loaded_at < '2031-04-01' GROUP BY f.name HAVING count(*) > 3) ranked WHERE place <= 5
SELECT f.district, sum(p.net) / sum(p.gross) AS part FROM payments p JOIN farms f ON f.farm_id = p.farm_id WHERE p.gross > 0 GROUP BY f.district
SELECT f.district, avg(p.net / p.gross) AS part FROM payments p, farms f WHERE f.farm_id = p.farm_id AND NOT p.gross <= 0 GROUP BY 1
SELECT count(DISTINCT l.farm_id) AS n FROM loads l WHERE EXISTS (SELECT 1 FROM payments p WHERE p.farm_id = l.farm_id AND p.net > 10)
SELECT count(l.farm_id) AS n FROM loads l JOIN payments p ON p.farm_id = l.farm_id AND p.net >= 10
SELECT month(loaded_at) AS m, avg(litres) AS n FROM loads WHERE year(loaded_at) = 2031 GROUP BY 1 ORDER BY 1
SELECT date_trunc('month', loaded_at) AS m, sum(litres) / count(*) AS n FROM loads WHERE loaded_at >= DATE '2031-01-01' AND loaded_at < DATE '2032-01-01' GROUP BY ALL ORDER BY m
SELECT load_id FROM loads WHERE litres > (SELECT avg(litres) FROM loads WHERE status = 'acc') AND status = 'acc'
SELECT load_id FROM loads, (SELECT avg(litres) AS mean FROM loads) m WHERE litres > m.mean AND status IN ('acc', 'rej')
SELECT name FROM farms f WHERE NOT EXISTS (SELECT 1 FROM loads l WHERE l.farm_id = f.farm_id AND year(l.loaded_at) = 2031) ORDER BY name
SELECT f.name FROM farms f LEFT JOIN loads l ON l.farm_id = f.farm_id AND l.loaded_at >= DATE '2031-01-01' WHERE l.load_id IS NULL
SELECT status, round(100.0 * count(*) / sum(count(*)) OVER (), 1) AS share FROM loads GROUP BY status
SELECT status, count(*) * 1.0 / (SELECT count(*) FROM loads) AS share FROM loads WHERE litres > 0 GROUP BY status
SELECT farm_id, loaded_at, litres FROM (SELECT *, row_number() OVER (PARTITION BY farm_id ORDER BY loaded_at DESC) AS rn FROM loads) t WHERE rn = 1
SELECT l.farm_id, l.loaded_at, l.litres FROM loads l WHERE l.loaded_at = (SELECT max(m.loaded_at) FROM loads m WHERE m.farm_id = l.farm_id)
SELECT coalesce(sum(gross), 0) - coalesce(sum(deductions), 0) AS net FROM payments WHERE farm_id = 3 OR farm_id = 4
SELECT sum(gross - coalesce(deductions, 0)) AS net FROM payments WHERE farm_id BETWEEN 3 AND 4
SELECT sum(litres) FILTER (WHERE status = 'acc') AS good, sum(litres) FILTER (WHERE status <> 'acc') AS bad FROM loads
SELECT sum(CASE status WHEN 'acc' THEN litres END) AS good, sum(CASE WHEN NOT status = 'acc' THEN litres END) AS bad FROM loads WHERE litres IS NOT NULL
SELECT farm_id, sum(litres) - lag(sum(litres)) OVER (ORDER BY farm_id) AS more FROM loads GROUP BY farm_id
SELECT a.farm_id, a.n - b.n AS more FROM (SELECT farm_id, sum(litres) AS n FROM loads GROUP BY 1) a JOIN (SELECT farm_id, sum(litres) AS n FROM loads GROUP BY 1) b ON b.farm_id = a.farm_id - 1
SELECT DISTINCT f.district FROM farms f JOIN loads l USING (farm_id) WHERE l.litres >= 500 AND (f.name LIKE 'A%' OR f.name LIKE 'B%')
SELECT f.district FROM farms f WHERE f.farm_id IN (SELECT farm_id FROM loads WHERE litres > 500) AND f.name SIMILAR TO '(A|B).*' GROUP BY f.district
SELECT max(n) AS most FROM (SELECT farm_id, count(*) AS n FROM loads GROUP BY farm_id) t
SELECT count(*) AS most FROM loads GROUP BY farm_id ORDER BY most DESC LIMIT 1
SELECT 'high' AS band, count(*) AS n FROM loads WHERE litres >= 1000 UNION ALL SELECT 'low', count(*) FROM loads WHERE litres < 1000
SELECT CASE WHEN litres > 1000 THEN 'high' ELSE 'low' END AS band, count(*) AS n FROM loads GROUP BY 1
WITH per AS (SELECT farm_id, avg(net) AS net FROM payments WHERE net > 5 GROUP BY 1) SELECT sum(net) AS net FROM per WHERE net > 10
WITH per AS (SELECT farm_id, avg(net) AS net FROM payments GROUP BY 1 HAVING avg(net) > 10) SELECT sum(net) AS net FROM per
WITH RECURSIVE under AS (SELECT kind_id, kind_id AS main, tools FROM kinds WHERE above_id IS NULL UNION ALL SELECT k.kind_id, u.main, k.tools FROM kinds k JOIN under u ON k.above_id = u.kind_id) SELECT main, sum(tools) AS tools FROM under GROUP BY main
SELECT m.kind_id AS main, m.tools + coalesce(sum(k.tools), 0) AS tools FROM kinds m LEFT JOIN kinds k ON k.above_id = m.kind_id WHERE m.above_id IS NULL GROUP BY m.kind_id, m.tools
SELECT c.kind_id, a.tools FROM kinds c JOIN kinds b ON c.above_id = b.kind_id JOIN kinds a ON b.above_id = a.kind_id
SELECT c.kind_id, b.tools FROM kinds c JOIN kinds b ON b.kind_id = c.above_id
