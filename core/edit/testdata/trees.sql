SELECT district, count(*) AS n FROM farms GROUP BY district ORDER BY n DESC LIMIT 3
WITH loads AS (SELECT * FROM loads WHERE status = 'acc') SELECT sum(litres) FROM loads
WITH loads AS (SELECT * FROM loads WHERE litres > 0), farms AS (SELECT f.* FROM farms f JOIN loads USING (farm_id)) SELECT count(*) FROM farms JOIN loads USING (farm_id)
WITH a AS (WITH loads AS (SELECT * FROM loads) SELECT * FROM loads), loads AS (SELECT * FROM a) SELECT * FROM loads, a
WITH a AS (SELECT 1 AS x), b AS (SELECT x + x AS x FROM a), c AS (SELECT p.x + q.x AS x FROM b p, b q), d AS (SELECT p.x * q.x AS x FROM c p, c q) SELECT p.x FROM d p, d q
WITH RECURSIVE chain(id, depth) AS (SELECT farm_id, 0 FROM farms UNION ALL SELECT farm_id, depth + 1 FROM chain JOIN farms ON farms.farm_id = chain.id WHERE depth < 5) SELECT max(depth) FROM chain
WITH RECURSIVE loads AS (SELECT * FROM loads UNION SELECT * FROM loads) SELECT count(*) FROM loads
WITH x AS (SELECT * FROM y), y AS (SELECT * FROM x) SELECT * FROM y
SELECT d, (SELECT max(litres) FROM loads l WHERE l.farm_id = f.farm_id) FROM (SELECT farm_id, district AS d FROM farms) f WHERE d IN (SELECT district FROM farms) ORDER BY 2 DESC NULLS LAST, d LIMIT 5 OFFSET 2
SELECT * FROM (SELECT *, row_number() OVER (PARTITION BY farm_id ORDER BY loaded_at DESC, litres) AS rn FROM loads) WHERE rn <= 2 ORDER BY farm_id
SELECT farm_id, litres FROM loads QUALIFY rank() OVER (PARTITION BY farm_id ORDER BY litres DESC) = 1
SELECT CASE WHEN litres >= 1000 THEN 'big' WHEN litres IS NULL THEN NULL ELSE 'small' END AS size, count(DISTINCT farm_id), avg(litres) FILTER (WHERE status <> 'rej') FROM loads GROUP BY ALL HAVING count(*) > 1 ORDER BY ALL
SELECT f.district, l.litres FROM farms f LEFT JOIN loads l ON l.farm_id = f.farm_id AND l.litres BETWEEN 1 AND 10 WHERE NOT EXISTS (SELECT 1 FROM loads x WHERE x.farm_id = f.farm_id) OR f.district LIKE 'N%'
SELECT farm_id FROM loads UNION ALL SELECT farm_id FROM farms EXCEPT SELECT 1 ORDER BY 1 LIMIT 10
SELECT year(loaded_at) AS y, date_trunc('month', loaded_at), current_date - loaded_at, now() FROM loads WHERE loaded_at >= today() - INTERVAL 30 DAY AND CAST(loaded_at AS DATE) <= DATE '2031-06-30'
FROM loads SELECT round(100.0 * sum(litres) / (SELECT sum(litres) FROM loads), 2) AS share, coalesce(sum(litres), 0) WHERE (status = 'acc' OR status = 'rej') AND farm_id NOT IN (1, 2, 3)
SELECT * FROM loads NATURAL JOIN farms CROSS JOIN (VALUES (1, 'a'), (2, 'b')) v(n, t) WHERE n = 1
PIVOT (SELECT status, litres, farm_id FROM loads) ON status IN ('acc', 'rej') USING sum(litres) GROUP BY farm_id
SELECT district, status, sum(litres) FROM loads JOIN farms USING (farm_id) GROUP BY GROUPING SETS ((district, status), (district), ())
SELECT list_transform([1, 2], x -> x + 1), {'a': 1}.a, [1, 2][1], EXTRACT(year FROM DATE '2031-01-01'), (SELECT count(*) FROM farms) > ALL (SELECT 1)
SELECT lag(litres) OVER w, sum(litres) OVER (w ROWS BETWEEN 2 PRECEDING AND CURRENT ROW) FROM loads WINDOW w AS (PARTITION BY farm_id ORDER BY loaded_at)
SELECT DISTINCT ON (farm_id) farm_id, litres FROM loads ORDER BY farm_id, litres DESC
SELECT litres FROM main.loads ASOF JOIN farms ON loads.farm_id >= farms.farm_id USING SAMPLE 10 ROWS
SELECT x.litres FROM loads AS x(a, litres), LATERAL (SELECT x.a + 1 AS b) y LIMIT 10%
