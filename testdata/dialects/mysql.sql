# Queries of MariaDB and MySQL over the table sale: each gives the same here as there. What stands before " | " says that it has no form here.
SELECT date_format(day, '%Y-%m'), date_format(at, '%d.%m.%y %H:%i:%s'), date_format(day, '%M %e'), date_format(day, '%b %Y'), date_format(day, '%W') FROM sale ORDER BY id
SELECT year(day), month(day), day(day), dayofmonth(day), quarter(day), hour(at), minute(at), second(at), dayofyear(day), weekofyear(day) FROM sale ORDER BY id
SELECT dayofweek(day), weekday(day), monthname(day), dayname(day), last_day(day), extract(year FROM day), date(at) FROM sale ORDER BY id
SELECT date_add(day, INTERVAL 1 MONTH), date_sub(day, INTERVAL 3 DAY), day + INTERVAL 1 YEAR, adddate(day, INTERVAL 1 WEEK), subdate(day, INTERVAL 1 DAY) FROM sale ORDER BY id
SELECT datediff('2031-06-30', day), timestampdiff(MONTH, day, '2031-06-30'), timestampdiff(DAY, at, '2031-06-30 10:00:00'), timestampdiff(YEAR, day, '2032-06-30'), timestampdiff(HOUR, at, '2031-06-30 10:00:00'), timestampdiff(MINUTE, at, '2031-06-30 10:00:00'), timestampdiff(SECOND, at, '2031-06-30 10:00:00'), timestampdiff(WEEK, day, '2031-06-30') FROM sale ORDER BY id
SELECT curdate(), current_date, current_date(), now(), current_timestamp(), utc_date()
SELECT 7 / 2, n / 2, 7 DIV 2, n DIV 2, 7 MOD 3, mod(n, 3), n % 2 FROM sale ORDER BY id
SELECT `farm`, count(*) AS `how many` FROM `sale` GROUP BY `farm` ORDER BY `how many` DESC, `farm` LIMIT 1, 2
SELECT if(n > 2, 'many', 'few'), ifnull(note, 'none'), isnull(note), coalesce(note, farm), nullif(status, 'ok') FROM sale ORDER BY id
SELECT concat(farm, '-', note), concat_ws('-', farm, note), greatest(n, 3), least(n, 3), greatest(n, NULL) FROM sale ORDER BY id
SELECT left(farm, 2), right(farm, 2), locate('l', farm), instr(farm, 'l'), length(farm), char_length(farm), ucase(farm), lcase(farm), lpad(farm, 8, '.'), rpad(farm, 8, '.'), reverse(farm), repeat('a', 2), substring(farm, 2, 2) FROM sale ORDER BY id
SELECT group_concat(farm ORDER BY id SEPARATOR '; '), group_concat(DISTINCT status ORDER BY status), count(DISTINCT farm) FROM sale
SELECT std(price), stddev(price), stddev_pop(price), stddev_samp(price), variance(price), var_pop(price), var_samp(price) FROM sale
SELECT pow(n, 2), log(n), log10(n), log2(n), sign(n - 2), pi(), sqrt(n), round(price, 1), ceil(price), floor(price) FROM sale WHERE n > 0 ORDER BY id
SELECT note, id FROM sale ORDER BY note, id
SELECT note, id FROM sale ORDER BY note DESC, id
SELECT CAST(n AS CHAR), CAST(price AS DECIMAL(8, 1)), CAST('7' AS SIGNED), CAST('2031-05-01' AS DATE), CONVERT(n, CHAR) FROM sale ORDER BY id
SELECT str_to_date('05.03.2031', '%d.%m.%Y'), 'it\'s', 'it''s' FROM sale WHERE id = 1
SELECT id FROM sale WHERE note <=> NULL ORDER BY id
SELECT id FROM sale WHERE farm REGEXP '^a' ORDER BY id
SELECT id FROM sale WHERE farm NOT REGEXP 'e$' AND status RLIKE 'o' ORDER BY id
SELECT id FROM sale WHERE farm LIKE 'A%' ORDER BY id # a comment
SELECT id, row_number() OVER (PARTITION BY farm ORDER BY price DESC, id) AS place FROM sale ORDER BY id
WITH m AS (SELECT date_format(day, '%Y-%m') AS month, sum(kg) AS kg FROM sale GROUP BY month) SELECT month, kg - lag(kg) OVER (ORDER BY month) FROM m ORDER BY month
SELECT farm, sum(CASE WHEN status = 'ok' THEN kg ELSE 0 END) / sum(kg) FROM sale GROUP BY farm ORDER BY 1
SELECT sum(n > 2), avg(n > 2), max(farm LIKE 'A%') FROM sale
SELECT n > 2, note IS NULL, farm IN ('Alder', 'Cole'), n BETWEEN 2 AND 3 FROM sale ORDER BY id
SELECT id FROM sale WHERE day >= '2031-03-01' AND day < '2031-04-01' ORDER BY id
SELECT 1 FROM DUAL
SELECT character_length(farm), timestampdiff(QUARTER, day, '2031-06-30') FROM sale ORDER BY id
SELECT position('l' IN farm) FROM sale ORDER BY id
SELECT farm, COUNT(*) AS n, ROUND(100 * COUNT(*) / (SELECT COUNT(*) FROM sale), 1) AS share FROM sale GROUP BY farm ORDER BY n DESC, farm
SELECT CONCAT(YEAR(day), '-Q', QUARTER(day)) AS q, SUM(kg) AS kg FROM sale GROUP BY q ORDER BY q
SELECT id, DATE_ADD(day, INTERVAL 14 DAY) AS due FROM sale WHERE day BETWEEN '2031-01-01' AND '2031-03-31' ORDER BY id
SELECT farm, MAX(price) - MIN(price) AS spread FROM sale GROUP BY farm HAVING COUNT(*) >= 2 ORDER BY spread DESC, farm
SELECT SUM(IF(MONTH(day) = 3, kg, 0)) AS march FROM sale
SELECT COUNT(*) FROM sale WHERE note LIKE '%word%' OR note IN ('x', 'z')
SELECT s.farm, s.id FROM sale s JOIN (SELECT farm, MAX(day) AS day FROM sale GROUP BY farm) l ON l.farm = s.farm AND l.day = s.day ORDER BY 1
SELECT id, n / 3 AS third, n DIV 3 AS w, n % 3 AS r FROM sale ORDER BY id
SELECT TIMESTAMPDIFF(HOUR, '2031-01-01', `at`) AS hours FROM sale ORDER BY id
SELECT DATE_FORMAT(`at`, '%Y-%m-%d') AS d, AVG(n) AS n FROM sale GROUP BY d ORDER BY d
SELECT DISTINCT UPPER(SUBSTRING(farm, 1, 3)) AS k FROM sale ORDER BY k
SELECT GROUP_CONCAT(id ORDER BY id SEPARATOR '-') AS ids FROM sale
SELECT farm, SUM(SUM(kg)) OVER (ORDER BY farm) AS run FROM sale GROUP BY farm ORDER BY farm
SELECT SUBSTRING_INDEX(farm, 'o', 1) AS p FROM sale ORDER BY id
SELECT EXISTS (SELECT 1 FROM sale WHERE n > 4) AS a, NOT EXISTS (SELECT 1 FROM sale WHERE n > 9) AS b
SELECT IFNULL(note, '-') AS note, COUNT(*) AS c FROM sale GROUP BY note WITH ROLLUP
SELECT CAST(AVG(price) AS DECIMAL(6,2)) AS a, CEIL(AVG(price)) AS b, FLOOR(SUM(kg)) AS c FROM sale WHERE status <> 'void'
SELECT id FROM sale WHERE (farm, n) IN (('Alder', 1), ('Cole', 4)) ORDER BY id
SELECT CASE WHEN kg > 20 THEN 'big' WHEN kg > 10 THEN 'mid' ELSE 'small' END AS size, COUNT(*) AS c FROM sale GROUP BY 1 ORDER BY 1
SELECT yearweek(day) FROM sale
SELECT regexp_replace(farm, '[aeiou]', '_'), substring_index(farm, 'e', -1) FROM sale ORDER BY id
SELECT farm, SUM(status = 'ok') / COUNT(*) AS share FROM sale GROUP BY farm ORDER BY farm
SELECT FORMAT(SUM(kg), 2) AS kg FROM sale
SELECT DATEDIFF('2031-07-01', MAX(day)) AS days FROM sale
SELECT LAST_DAY(day) = day AS month_end, COUNT(*) AS n FROM sale GROUP BY month_end ORDER BY month_end
SELECT id, DATE_FORMAT(day, '%b-%y') AS m, DAYNAME(day) AS d FROM sale ORDER BY id
SELECT CONCAT_WS(', ', farm, status, note) AS t FROM sale ORDER BY id
SELECT farm FROM sale GROUP BY farm ORDER BY SUM(kg) DESC LIMIT 1 OFFSET 1
SELECT a.id, b.id FROM sale a JOIN sale b ON b.day > a.day AND b.farm = a.farm ORDER BY 1, 2
SELECT id FROM sale WHERE day >= DATE_SUB(CURDATE(), INTERVAL 3 MONTH) ORDER BY id
SELECT MONTHNAME(day) AS m, ROUND(AVG(kg), 2) AS kg FROM sale GROUP BY m ORDER BY MIN(day)
SELECT IF(note IS NULL, 'none', LEFT(note, 1)) AS k, COUNT(*) FROM sale GROUP BY k ORDER BY k
SELECT STR_TO_DATE(CONCAT(YEAR(day), '-', MONTH(day), '-01'), '%Y-%m-%d') AS m FROM sale ORDER BY id
SELECT farm, RANK() OVER (ORDER BY SUM(kg) DESC) AS r FROM sale GROUP BY farm ORDER BY r
SELECT COUNT(DISTINCT farm, status) AS c FROM sale
SELECT COUNT(DISTINCT farm, status, note) AS c FROM sale
SELECT DATE_FORMAT(day, '%Y-%m-01') AS m, SUM(CASE WHEN status = 'ok' THEN 1 ELSE 0 END) AS ok, COUNT(*) AS n FROM sale GROUP BY m ORDER BY m
SELECT farm, ROUND(AVG(kg), 2) AS kg FROM sale GROUP BY farm HAVING AVG(kg) > 10 ORDER BY kg DESC
SELECT id, DATEDIFF(day, LAG(day) OVER (ORDER BY day)) AS gap FROM sale ORDER BY day
SELECT id FROM sale WHERE day >= CURDATE() - INTERVAL 6 MONTH ORDER BY id
SELECT GROUP_CONCAT(DISTINCT farm ORDER BY farm SEPARATOR ' / ') AS farms FROM sale
SELECT CONCAT(UPPER(LEFT(status, 1)), LOWER(SUBSTRING(status, 2))) AS s, SUM(n) FROM sale WHERE status IS NOT NULL GROUP BY s ORDER BY s
SELECT id, IF(note IS NULL OR TRIM(note) = '', 'none', note) AS note FROM sale ORDER BY id
SELECT YEAR(day) AS y, QUARTER(day) AS q, SUM(kg) FROM sale GROUP BY YEAR(day), QUARTER(day) ORDER BY 1, 2
SELECT a.farm FROM sale a WHERE NOT EXISTS (SELECT 1 FROM sale b WHERE b.farm = a.farm AND b.status = 'void') GROUP BY a.farm ORDER BY 1
SELECT SUM(kg * price) / SUM(kg) AS weighted, SUM(n) / 4 AS quarter, 10 MOD 4 AS r FROM sale
SELECT ROW_NUMBER() OVER (ORDER BY kg DESC) AS r, farm FROM sale ORDER BY r LIMIT 3
SELECT TIME_FORMAT(`at`, '%H:%i') AS t FROM sale ORDER BY id
SELECT COALESCE(NULLIF(note, ''), 'n/a') AS note, COUNT(*) AS c FROM sale GROUP BY 1 ORDER BY c DESC, note
SELECT LOCATE('e', farm) > 0 AS has, COUNT(*) FROM sale GROUP BY has ORDER BY has
SELECT DATEDIFF('2031-06-30', MAX(day)) AS since, TIMESTAMPDIFF(MONTH, MIN(day), MAX(day)) AS months FROM sale
SELECT ROUND(SUM(kg)) AS kg, TRUNCATE(AVG(price), 1) AS price, CEILING(AVG(n)) AS n FROM sale
SELECT CHAR_LENGTH(farm) AS l, COUNT(DISTINCT id) AS c FROM sale GROUP BY l ORDER BY l
SELECT DAYOFWEEK(day) AS d, WEEKDAY(day) AS w FROM sale ORDER BY id
SELECT farm, COUNT(*) * 100.0 / SUM(COUNT(*)) OVER () AS pct FROM sale GROUP BY farm ORDER BY farm
SELECT EXTRACT(YEAR_MONTH FROM day) AS ym, COUNT(*) FROM sale GROUP BY ym ORDER BY ym
SELECT DATE_FORMAT(day, '%x-W%v') AS week, COUNT(*) AS n FROM sale GROUP BY DATE_FORMAT(day, '%x-W%v') ORDER BY week
SELECT farm, ROUND(SUM(kg * price), 2) AS revenue FROM sale WHERE status <> 'void' GROUP BY farm HAVING revenue > 20 ORDER BY revenue DESC
SELECT * FROM (SELECT id, farm, ROW_NUMBER() OVER (PARTITION BY farm ORDER BY price DESC, id) AS place FROM sale) ranked WHERE place <= 1 ORDER BY id
SELECT STR_TO_DATE('2031-05-01', '%Y-%m-%d') AS d, MAKEDATE(2031, 60) AS m, MAKEDATE(2031, MONTH(day)) FROM sale ORDER BY id
SELECT id FROM sale WHERE day BETWEEN DATE_SUB('2031-06-30', INTERVAL 3 MONTH) AND '2031-06-30' ORDER BY id
SELECT id FROM sale WHERE at > '2031-06-30 12:00:00' - INTERVAL 90 DAY ORDER BY id
SELECT ROUND(100 * SUM(status = 'late') / COUNT(*), 1) AS late_share FROM sale
SELECT FIELD(status, 'ok', 'late', 'void') AS rank_of, COUNT(*) AS n FROM sale GROUP BY rank_of ORDER BY rank_of
SELECT FIELD(status, 'ok', 'late'), FIELD(farm, 'a', 'b', 'Cole', 'Dell'), FIELD(n, 3, 1, 2, 4, 5), ELT(n, 'a', 'b'), ELT(n, 'a', 'b', 'c'), FIND_IN_SET(status, 'late,ok') FROM sale ORDER BY id
SELECT PERIOD_DIFF(203106, EXTRACT(YEAR_MONTH FROM day)) AS months, PERIOD_ADD(EXTRACT(YEAR_MONTH FROM day), 3) FROM sale ORDER BY id
SELECT UNIX_TIMESTAMP(at), FROM_UNIXTIME(UNIX_TIMESTAMP(at)), UTC_TIMESTAMP() FROM sale ORDER BY id
SELECT ASCII(farm), MD5(farm), MID(farm, 2, 2), OCTET_LENGTH(farm), CONCAT('a', SPACE(2), 'b'), NVL(note, 'none'), NVL2(note, 'some', 'none'), STRCMP(status, 'late'), REGEXP_SUBSTR(farm, '[lr].') FROM sale ORDER BY id
SELECT ACOS(0.5), ASIN(0.5), ATAN(n), ATAN2(1, 2), COS(n), COT(n), DEGREES(n), RADIANS(n), SIN(n), TAN(n) FROM sale ORDER BY id
SELECT id, WEEKDAY(day) + 1 AS wd FROM sale WHERE DAYOFWEEK(day) IN (1, 7) ORDER BY id
SELECT LPAD(id, 3, '0'), RPAD(n, 2, '-'), LEFT(day, 7), RIGHT(id, 1), SUBSTRING(day, 1, 4), REPLACE(day, '-', '/'), UPPER(farm), LOWER(farm), REVERSE(n), REPEAT(n, 2), MID(day, 6, 2), SUBSTR(day, 9), SUBSTR(farm, 2, 2), SUBSTRING(farm, 3) FROM sale ORDER BY id
SELECT YEAR('2031-05-01'), MONTHNAME('2031-05-01'), LAST_DAY('2031-02-03'), DATE_FORMAT('2031-05-01', '%d.%m.'), HOUR('2031-05-01 10:30:00') FROM sale WHERE id = 1
SELECT farm, MIN(price) FROM sale WHERE day >= DATE_FORMAT('2031-06-30', '%Y-01-01') GROUP BY farm ORDER BY farm
SELECT id FROM sale WHERE LEFT(day, 7) = '2031-03' ORDER BY id
SELECT farm, kg / SUM(kg) OVER (PARTITION BY farm) AS share FROM sale ORDER BY id
WITH monthly AS (SELECT YEAR(day) AS y, MONTH(day) AS m, SUM(kg) AS kg FROM sale GROUP BY y, m) SELECT y, m, kg - LAG(kg) OVER (ORDER BY y, m) AS diff FROM monthly ORDER BY y, m
SELECT WEEK(day, 3) AS wk, SUM(n) AS n FROM sale WHERE YEAR(day) = 2031 GROUP BY wk ORDER BY wk
SELECT SUM(kg * (status = 'ok')) AS ok_kg, SUM((n > 1) + (n > 2)) AS more, ROUND(100 * AVG(status = 'ok'), 1) AS share FROM sale
SELECT id, n + (status = 'void') * 10 AS points FROM sale WHERE n * (farm = 'Alder') > 0 ORDER BY id
SELECT id, DATEDIFF(day, LAG(day) OVER (ORDER BY day)) AS gap FROM sale ORDER BY day
SELECT farm, day FROM sale WHERE (farm, day) IN (SELECT farm, MAX(day) FROM sale GROUP BY farm) ORDER BY farm
SELECT CASE farm WHEN 'Alder' THEN 'A' WHEN 'Cole' THEN 'C' ELSE 'other' END AS f, COUNT(*) FROM sale GROUP BY f ORDER BY f
SELECT WEEK(day, 0) FROM sale ORDER BY id
SELECT DATE_FORMAT(at, '%H:00') AS hour, COUNT(*) AS loads FROM sale GROUP BY hour ORDER BY hour
SELECT farm, SUM(CASE WHEN MONTH(day) <= 3 THEN kg END) AS q1, SUM(CASE WHEN MONTH(day) BETWEEN 4 AND 6 THEN kg END) AS q2 FROM sale WHERE YEAR(day) = 2031 GROUP BY farm ORDER BY farm
SELECT s.farm, COUNT(*) AS n FROM sale AS s WHERE s.price > (SELECT AVG(price) FROM sale) GROUP BY s.farm ORDER BY n DESC, s.farm ASC
SELECT DATE(at) AS d, COUNT(*) FROM sale WHERE TIME(at) >= '09:00:00' GROUP BY d ORDER BY d
SELECT status, COUNT(*) AS n, ROUND(COUNT(*) / (SELECT COUNT(*) FROM sale) * 100, 2) AS pct FROM sale GROUP BY status ORDER BY n DESC, status
no | SELECT farm, GROUP_CONCAT(DISTINCT IFNULL(note, '-') ORDER BY note DESC SEPARATOR '|') AS notes FROM sale GROUP BY farm ORDER BY farm
SELECT DATE_FORMAT(day, '%Y') AS y, FLOOR((MONTH(day) - 1) / 3) + 1 AS q, ROUND(SUM(kg), 1) AS kg FROM sale GROUP BY y, q ORDER BY y, q
SELECT id, DATEDIFF(LEAD(day) OVER (PARTITION BY farm ORDER BY day), day) AS until_next FROM sale ORDER BY id
SELECT farm, AVG(kg) AS a, STDDEV_SAMP(kg) AS s, MIN(kg), MAX(kg) FROM sale GROUP BY farm HAVING COUNT(*) > 1 ORDER BY farm
SELECT * FROM sale WHERE note IS NOT NULL AND CHAR_LENGTH(note) > 1 ORDER BY id
SELECT YEAR(day) * 100 + MONTH(day) AS period, SUM(n) FROM sale GROUP BY period ORDER BY period DESC
SELECT farm, day, SUM(kg) OVER (PARTITION BY farm ORDER BY day ROWS BETWEEN UNBOUNDED PRECEDING AND CURRENT ROW) AS so_far FROM sale ORDER BY farm, day
SELECT DISTINCT farm FROM sale WHERE day < DATE_SUB('2031-06-30', INTERVAL 90 DAY) ORDER BY farm
SELECT UPPER(CONCAT(LEFT(farm, 1), '.', RIGHT(farm, 2))) AS code, id FROM sale ORDER BY code, id
SELECT IF(price >= 3, 'dear', IF(price >= 2, 'fair', 'cheap')) AS band, COUNT(*) AS n, SUM(kg) AS kg FROM sale GROUP BY band ORDER BY band
SELECT farm FROM sale GROUP BY farm HAVING SUM(status = 'void') = 0 ORDER BY farm
SELECT LAST_DAY(day) AS month_end, SUM(kg) FROM sale GROUP BY LAST_DAY(day) ORDER BY month_end
SELECT id, TIMESTAMPDIFF(SECOND, at, '2031-06-30 00:00:00') / 86400 AS days FROM sale ORDER BY id
SELECT a.farm, a.kg - b.kg AS diff FROM (SELECT farm, SUM(kg) AS kg FROM sale WHERE MONTH(day) = 1 GROUP BY farm) a LEFT JOIN (SELECT farm, SUM(kg) AS kg FROM sale WHERE MONTH(day) = 3 GROUP BY farm) b USING (farm) ORDER BY a.farm
SELECT SUBSTRING_INDEX(SUBSTRING_INDEX(note, ' ', 2), ' ', -1) AS w FROM sale WHERE note LIKE '% %'
SELECT NTILE(4) OVER (ORDER BY kg) AS quartile, id FROM sale ORDER BY quartile, id
SELECT farm, FIRST_VALUE(id) OVER (PARTITION BY farm ORDER BY at DESC) AS latest FROM sale ORDER BY id
WITH RECURSIVE m AS (SELECT CAST('2031-01-01' AS DATE) AS d UNION ALL SELECT DATE_ADD(d, INTERVAL 1 MONTH) FROM m WHERE d < '2031-06-01') SELECT m.d, COUNT(s.id) AS n FROM m LEFT JOIN sale s ON s.day >= m.d AND s.day < DATE_ADD(m.d, INTERVAL 1 MONTH) GROUP BY m.d ORDER BY m.d
SELECT farm, COUNT(*) AS n FROM sale WHERE DAYNAME(day) NOT IN ('Saturday', 'Sunday') GROUP BY farm ORDER BY n DESC, farm LIMIT 3
SELECT DATE_ADD(MAKEDATE(YEAR(day), 1), INTERVAL QUARTER(day) QUARTER) - INTERVAL 1 DAY AS quarter_end, SUM(kg) FROM sale GROUP BY quarter_end ORDER BY quarter_end
SELECT SUM(IFNULL(price, 0) * kg) AS total, COUNT(note) AS notes, COUNT(*) - COUNT(note) AS without FROM sale
SELECT id, ROUND(price * 1.19, 2) AS gross, price * 1.19 - price AS tax FROM sale WHERE status IN ('ok', 'late') ORDER BY id
SELECT farm, MAX(at) AS last_at, TIMESTAMPDIFF(DAY, MAX(at), NOW()) AS idle FROM sale GROUP BY farm ORDER BY idle DESC, farm
SELECT COUNT(IF(status = 'ok', 1, NULL)) AS ok, COUNT(IF(status = 'late', id, NULL)) AS late FROM sale
SELECT DATE_FORMAT(day, '%Y-%m') AS m, COUNT(*) AS n FROM sale WHERE day >= DATE_FORMAT(CURDATE() - INTERVAL 5 MONTH, '%Y-%m-01') GROUP BY m ORDER BY m
SELECT farm, PERCENT_RANK() OVER (ORDER BY kg) AS p, DENSE_RANK() OVER (ORDER BY farm) AS d FROM sale ORDER BY id
SELECT s.id FROM sale s LEFT JOIN sale v ON v.farm = s.farm AND v.status = 'void' WHERE v.id IS NULL ORDER BY s.id
SELECT CAST(SUM(kg) AS UNSIGNED) AS kg, CONVERT(AVG(price), DECIMAL(10, 3)) AS price FROM sale
SELECT HOUR(at) AS h, MINUTE(at) DIV 15 AS quarter, COUNT(*) FROM sale GROUP BY h, quarter ORDER BY h, quarter
SELECT TRIM(BOTH 'x' FROM note) AS t, LTRIM(note), RTRIM(note) FROM sale ORDER BY id
SELECT farm, n FROM sale WHERE n = (SELECT MAX(n) FROM sale x WHERE x.farm = sale.farm) ORDER BY farm, id
no | SELECT id FROM sale WHERE NOT (status = 'ok' XOR n > 2) ORDER BY id
(SELECT farm, kg FROM sale ORDER BY kg DESC LIMIT 2) UNION ALL (SELECT farm, kg FROM sale ORDER BY kg LIMIT 2)
SELECT TO_DAYS('2031-06-30') - TO_DAYS(day) AS age, id FROM sale ORDER BY age
no | SELECT farm, JSON_LENGTH(CONCAT('[', GROUP_CONCAT(id), ']')) AS c FROM sale GROUP BY farm ORDER BY farm
SELECT DATE(at) AS d, COUNT(*) FROM sale WHERE TIME(at) >= '09:00:00' GROUP BY d ORDER BY d
SELECT DATE_ADD(MAKEDATE(YEAR(day), 1), INTERVAL QUARTER(day) QUARTER) - INTERVAL 1 DAY AS quarter_end, SUM(kg) FROM sale GROUP BY quarter_end ORDER BY quarter_end
SELECT TRIM(BOTH 'x' FROM note) AS t, LTRIM(note), RTRIM(note), TRIM(LEADING 'A' FROM farm), TRIM(TRAILING 'e' FROM farm) FROM sale ORDER BY id
SELECT TO_DAYS('2031-06-30') - TO_DAYS(day) AS age, FROM_DAYS(TO_DAYS(day) + 1), id FROM sale ORDER BY age
SELECT WEEK(day), WEEK(day, 0), WEEK(day, 1), WEEK(day, 3), WEEK(day, 5), YEARWEEK(day), YEARWEEK(day, 1), YEARWEEK(day, 3) FROM sale ORDER BY id
SELECT WEEK('2031-01-01', 1), WEEK('2029-12-31', 1), WEEK('2030-12-31', 1), YEARWEEK('2031-01-01'), YEARWEEK('2033-01-01'), YEARWEEK('2029-12-31', 1), WEEK('2033-01-02'), WEEK('2033-01-01') FROM sale WHERE id = 1
SELECT DATE_SUB(day, INTERVAL WEEKDAY(day) DAY) AS monday, day - INTERVAL DAYOFWEEK(day) - 1 DAY AS sunday FROM sale ORDER BY id
SELECT TIMESTAMPADD(MONTH, 1, day), TIMESTAMPADD(YEAR, 1, day), TIMESTAMPADD(QUARTER, 1, day), TIMESTAMPADD(WEEK, 2, day), TIMESTAMPADD(DAY, -3, day), TIMESTAMPADD(HOUR, 5, at), TIMESTAMPADD(MINUTE, n, at), TIMESTAMPADD(SECOND, 90, at) FROM sale ORDER BY id
SELECT TIME_TO_SEC(TIME(at)), TIMESTAMP(day), LOCATE('e', farm, 3), LOG(2, n), SHA1(farm), BIT_LENGTH(farm) FROM sale ORDER BY id
SELECT id FROM sale WHERE day LIKE '2031-03%' ORDER BY id
SELECT id FROM sale WHERE day NOT LIKE '%-03-%' AND id LIKE '%1%' OR at LIKE '%18:30%' ORDER BY id
SELECT SQL_NO_CACHE farm, COUNT(*) FROM sale USE INDEX () GROUP BY farm ORDER BY farm
SELECT COUNT(*) FROM sale GROUP BY farm ORDER BY NULL
SELECT DISTINCT MEDIAN(kg) OVER (PARTITION BY farm) AS m, farm FROM sale ORDER BY farm
SELECT DATE_FORMAT(day, '%U'), DATE_FORMAT(at, '%k:%i'), DATE_FORMAT(at, '%l %p'), DATE_FORMAT(at, '%r') FROM sale ORDER BY id
SELECT ADDDATE(day, 10), SUBDATE(day, 10), DATE_SUB(at, INTERVAL n HOUR), day + INTERVAL n MONTH FROM sale ORDER BY id
SELECT farm, SUM(kg) OVER w AS s, AVG(kg) OVER w AS a FROM sale WINDOW w AS (PARTITION BY farm ORDER BY day) ORDER BY id
no | SELECT DISTINCT farm, PERCENTILE_CONT(0.5) WITHIN GROUP (ORDER BY kg) OVER (PARTITION BY farm) AS m FROM sale ORDER BY farm
SELECT farm, COUNT(*) AS visits, DATE_FORMAT(MIN(day), '%d/%m/%Y') AS first_seen, DATE_FORMAT(MAX(day), '%d/%m/%Y') AS last_seen FROM sale GROUP BY farm ORDER BY visits DESC, farm
SELECT YEAR(day) AS yr, MONTHNAME(day) AS mon, SUM(kg) AS total FROM sale GROUP BY YEAR(day), MONTH(day), MONTHNAME(day) ORDER BY YEAR(day), MONTH(day)
SELECT farm, SUM(kg) AS total, CASE WHEN SUM(kg) >= 30 THEN 'large' WHEN SUM(kg) >= 20 THEN 'medium' ELSE 'small' END AS class FROM sale GROUP BY farm ORDER BY total DESC
SELECT DATE_SUB(day, INTERVAL DAYOFMONTH(day) - 1 DAY) AS month_start, COUNT(*) AS n FROM sale GROUP BY month_start ORDER BY month_start
SELECT id, farm, DATEDIFF(CURDATE(), day) AS age_days FROM sale WHERE DATEDIFF(CURDATE(), day) > 60 ORDER BY age_days DESC
SELECT farm, AVG(DATEDIFF('2031-06-30', day)) AS avg_age FROM sale GROUP BY farm ORDER BY farm
SELECT status, GROUP_CONCAT(farm ORDER BY kg DESC SEPARATOR ', ') AS farms FROM sale GROUP BY status ORDER BY status
SELECT IFNULL(farm, 'TOTAL') AS farm, SUM(kg) AS kg FROM sale GROUP BY farm WITH ROLLUP
SELECT ROUND(SUM(CASE WHEN status = 'late' THEN 1 ELSE 0 END) * 100.0 / COUNT(*), 2) AS late_pct FROM sale
SELECT id, at, TIMESTAMPDIFF(MINUTE, LAG(at) OVER (ORDER BY at), at) AS minutes_between FROM sale ORDER BY at
SELECT farm, kg, RANK() OVER (PARTITION BY farm ORDER BY kg DESC) AS rnk FROM sale ORDER BY farm, rnk
WITH ranked AS (SELECT farm, kg, ROW_NUMBER() OVER (PARTITION BY farm ORDER BY kg DESC) AS rn FROM sale) SELECT farm, kg FROM ranked WHERE rn = 1 ORDER BY farm
WITH t AS (SELECT farm, SUM(kg) AS kg FROM sale GROUP BY farm) SELECT farm, kg, ROUND(kg / (SELECT SUM(kg) FROM t) * 100, 1) AS pct FROM t ORDER BY pct DESC
SELECT farm, SUM(kg) - LAG(SUM(kg)) OVER (ORDER BY farm) AS delta FROM sale GROUP BY farm ORDER BY farm
SELECT WEEK(day) AS wk, SUM(kg) AS kg FROM sale WHERE YEAR(day) = 2031 GROUP BY WEEK(day) ORDER BY wk
SELECT DATE(DATE_SUB(NOW(), INTERVAL 30 DAY)) AS since, COUNT(*) AS n FROM sale WHERE at >= DATE_SUB(NOW(), INTERVAL 30 DAY)
SELECT COUNT(*) FROM sale WHERE YEAR(day) = YEAR(CURDATE()) AND MONTH(day) = MONTH(CURDATE())
SELECT COUNT(*) FROM sale WHERE YEAR(day) = YEAR(CURDATE() - INTERVAL 1 MONTH) AND MONTH(day) = MONTH(CURDATE() - INTERVAL 1 MONTH)
SELECT QUARTER(day) AS q, COUNT(DISTINCT farm) AS farms FROM sale WHERE day BETWEEN '2031-01-01' AND '2031-12-31' GROUP BY q HAVING farms >= 2 ORDER BY q
SELECT farm, GREATEST(MAX(kg), 10) AS top, LEAST(MIN(kg), 10) AS low FROM sale GROUP BY farm ORDER BY farm
SELECT CONCAT(farm, ' (', COUNT(*), ')') AS label FROM sale GROUP BY farm ORDER BY label
SELECT CONCAT('EUR ', FORMAT(SUM(kg * price), 2)) AS revenue FROM sale WHERE status = 'ok'
SELECT SUBSTRING(farm, 1, 1) AS letter, COUNT(*) FROM sale GROUP BY letter ORDER BY letter
SELECT farm FROM sale WHERE farm REGEXP '^[A-C]' GROUP BY farm ORDER BY farm
SELECT REPLACE(farm, 'side', '-side') AS f, LENGTH(farm) - LENGTH(REPLACE(farm, 'o', '')) AS os FROM sale GROUP BY farm ORDER BY farm
SELECT farm, COALESCE(SUM(CASE WHEN status = 'void' THEN kg END), 0) AS void_kg FROM sale GROUP BY farm ORDER BY farm
SELECT s1.farm, s1.day, s1.kg FROM sale s1 INNER JOIN (SELECT farm, MAX(day) AS mx FROM sale GROUP BY farm) s2 ON s1.farm = s2.farm AND s1.day = s2.mx ORDER BY s1.farm
SELECT MAX(kg) FROM sale WHERE kg < (SELECT MAX(kg) FROM sale)
SELECT farm FROM sale GROUP BY farm HAVING COUNT(*) = (SELECT MAX(c) FROM (SELECT COUNT(*) AS c FROM sale GROUP BY farm) x) ORDER BY farm
SELECT DAYNAME(day) AS weekday, COUNT(*) AS n FROM sale GROUP BY DAYNAME(day), WEEKDAY(day) ORDER BY WEEKDAY(day)
SELECT id, IF(WEEKDAY(day) >= 5, 'weekend', 'weekday') AS kind FROM sale ORDER BY id
SELECT TIMESTAMPDIFF(YEAR, '2001-07-15', CURDATE()) AS age, TIMESTAMPDIFF(WEEK, MIN(day), MAX(day)) AS weeks FROM sale
SELECT DATE_FORMAT(FROM_UNIXTIME(UNIX_TIMESTAMP(at) - UNIX_TIMESTAMP(at) % 3600), '%Y-%m-%d %H:00') AS hour_of, COUNT(*) AS n FROM sale GROUP BY hour_of ORDER BY hour_of
SELECT farm, ROUND(STDDEV(kg), 3) AS sd, ROUND(VARIANCE(kg), 3) AS var FROM sale GROUP BY farm ORDER BY farm
SELECT DISTINCT s.farm FROM sale s WHERE s.day >= '2031-03-01' AND s.farm NOT IN (SELECT farm FROM sale WHERE day < '2031-03-01') ORDER BY s.farm
SELECT MONTH(day) AS m, SUM(kg) AS kg, SUM(SUM(kg)) OVER (ORDER BY MONTH(day)) AS cumulative FROM sale WHERE YEAR(day) = 2031 GROUP BY MONTH(day) ORDER BY m
SELECT CASE WHEN HOUR(at) < 6 THEN 'night' WHEN HOUR(at) BETWEEN 6 AND 11 THEN 'morning' ELSE 'later' END AS part, COUNT(*) AS n FROM sale GROUP BY part ORDER BY part
SELECT status, SUM(kg) AS kg FROM sale GROUP BY status ORDER BY FIELD(status, 'ok', 'late', 'void')
SELECT SUM(price IS NULL) AS no_price, SUM(note IS NULL) AS no_note, AVG(note IS NOT NULL) AS with_note FROM sale
SELECT LAST_DAY(DATE_SUB(CURDATE(), INTERVAL 1 MONTH)) AS prev_end, DATE_FORMAT(CURDATE(), '%Y-%m-01') AS this_start, DATE_ADD(LAST_DAY(CURDATE()), INTERVAL 1 DAY) AS next_start
SELECT farm, DATE_FORMAT(day, '%b') AS m, SUM(n) FROM sale GROUP BY farm, m, MONTH(day) ORDER BY farm, MONTH(day)
SELECT AVG(kg) AS mean, (SELECT AVG(kg) FROM (SELECT kg, ROW_NUMBER() OVER (ORDER BY kg) AS r, COUNT(*) OVER () AS c FROM sale) x WHERE r IN (FLOOR((c + 1) / 2), CEIL((c + 1) / 2))) AS median FROM sale
no | SELECT HOUR(TIMEDIFF('2031-06-30 10:00:00', at)) AS h FROM sale WHERE id = 9
SELECT COUNT(*) AS n, SUM(n) FROM sale WHERE DATE_FORMAT(at, '%H:%i') BETWEEN '06:00' AND '12:00'
no | SELECT farm, JSON_ARRAYAGG(id) AS ids FROM sale GROUP BY farm ORDER BY farm
SELECT id, CAST(day AS DATETIME) AS t, CAST(at AS DATE) AS d, CAST(price AS CHAR) AS p FROM sale WHERE id <= 2 ORDER BY id
SELECT id, ROUND(kg, 0) AS r, ROUND(kg, -1) AS tens, TRUNCATE(kg, 0) AS t, kg MOD 5 AS m FROM sale ORDER BY id
SELECT UPPER(farm) AS f, SUM(kg) FROM sale GROUP BY UPPER(farm) HAVING SUM(kg) BETWEEN 10 AND 40 ORDER BY 2 DESC
SELECT INSERT(farm, 1, 1, 'X') AS f, LEFT(farm, CHAR_LENGTH(farm) - 1) AS cut FROM sale ORDER BY id
SELECT CONCAT(LPAD(HOUR(at), 2, '0'), ':', LPAD(MINUTE(at), 2, '0')) AS hm FROM sale ORDER BY id
SELECT CONVERT(farm USING utf8mb4) AS p, CONVERT(n USING utf8mb4) FROM sale WHERE id = 1
SELECT id, day + INTERVAL (n * 7) DAY AS later, day - INTERVAL '2' MONTH AS before2 FROM sale ORDER BY id
SELECT farm, day FROM sale s WHERE 2 > (SELECT COUNT(*) FROM sale t WHERE t.farm = s.farm AND t.day > s.day) ORDER BY farm, day
SELECT EXTRACT(DAY FROM day) AS d, EXTRACT(HOUR FROM at) AS h, EXTRACT(WEEK FROM day) AS w FROM sale ORDER BY id
SELECT IF(SUM(kg) > 100, 'yes', 'no') AS big, COUNT(*) > 5 AS many FROM sale
SELECT COALESCE(note, status, 'x') AS c, NULLIF(n, 0) AS n, 10 / NULLIF(n - 1, 0) AS d FROM sale ORDER BY id
no | SELECT farm, MIN(at) AS a, MAX(at) AS b, SEC_TO_TIME(TIMESTAMPDIFF(SECOND, '2031-01-01 00:00:00', '2031-01-01 02:30:00')) AS t FROM sale GROUP BY farm ORDER BY farm
SELECT SUM(kg) AS kg, DAY(LAST_DAY('2031-02-01')) AS days, SUM(kg) / DAY(LAST_DAY('2031-02-01')) AS per_day FROM sale WHERE MONTH(day) = 2
SELECT farm, SUM(kg) FROM sale WHERE day < CURDATE() AND day >= CURDATE() - INTERVAL DAYOFYEAR(CURDATE()) - 1 DAY GROUP BY farm ORDER BY farm
SELECT COUNT(*) AS n FROM sale WHERE status = 'ok' AND (note = 'x' OR note = 'z')
SELECT id FROM sale WHERE note IN ('x', NULL) OR NOT (n > 2 AND price < 3) ORDER BY id
SELECT farm, n, LEAD(n, 1) OVER (PARTITION BY farm ORDER BY id) AS nxt, LAST_VALUE(n) OVER (PARTITION BY farm ORDER BY id ROWS BETWEEN UNBOUNDED PRECEDING AND UNBOUNDED FOLLOWING) AS last FROM sale ORDER BY id
SELECT DATE_FORMAT(day, '%Y-%m') AS month, COUNT(*) FROM sale GROUP BY 1 HAVING COUNT(*) > 1 ORDER BY 1 DESC LIMIT 5
SELECT TIMESTAMPDIFF(MONTH, day, CURDATE()) AS m, COUNT(*) AS c FROM sale GROUP BY TIMESTAMPDIFF(MONTH, day, CURDATE()) ORDER BY m
no | SELECT MAKETIME(HOUR(at), 0, 0) AS t FROM sale ORDER BY id
SELECT YEAR(day) AS y, SUM(CASE QUARTER(day) WHEN 1 THEN kg ELSE 0 END) AS q1, SUM(CASE QUARTER(day) WHEN 2 THEN kg ELSE 0 END) AS q2 FROM sale GROUP BY y ORDER BY y
SELECT farm, AVG(kg) OVER (PARTITION BY farm ORDER BY day ROWS BETWEEN 1 PRECEDING AND CURRENT ROW) AS moving FROM sale ORDER BY id
SELECT * FROM sale WHERE day = (SELECT MAX(day) FROM sale)
SELECT a.farm, COUNT(DISTINCT b.farm) AS others FROM sale a CROSS JOIN sale b WHERE a.farm <> b.farm AND ABS(DATEDIFF(a.day, b.day)) <= 31 GROUP BY a.farm ORDER BY a.farm
SELECT CONCAT_WS('-', YEAR(day), LPAD(MONTH(day), 2, '0')) AS ym, ROUND(AVG(price), 2) AS p FROM sale GROUP BY ym ORDER BY ym
WITH RECURSIVE m AS (SELECT CAST('2028-12-20' AS DATE) AS d UNION ALL SELECT DATE_ADD(d, INTERVAL 1 DAY) FROM m WHERE d < '2031-08-01') SELECT d, WEEK(d), WEEK(d, 1), WEEK(d, 3), WEEK(d, 5), YEARWEEK(d), YEARWEEK(d, 1), DATE_FORMAT(d, '%U'), DATE_FORMAT(d, '%x%v'), TO_DAYS(d), DATE_SUB(d, INTERVAL WEEKDAY(d) DAY), LAST_DAY(d), QUARTER(d) FROM m ORDER BY d
no | SELECT WEEK(day, 4) FROM sale
