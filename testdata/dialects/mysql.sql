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
here | SELECT yearweek(day) FROM sale
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
no | SELECT WEEK(day, 0) FROM sale ORDER BY id
