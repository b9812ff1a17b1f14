// Package golden reads golden sets: Markdown files of business questions with their expected answers. It parses, finds
// defects with their places, and edits single tables in place; it runs no query and reads no file.
//
// # Grammar
//
// A set is a UTF-8 Markdown document (CommonMark with GitHub tables):
//
//	set       = front-matter { free-text } { question }
//	question  = "## " text " {#" id "}" body { reading | follow-up }
//	follow-up = "### Follow-up: " text " {#" id "}" body { reading }
//	reading   = "### Reading: " title body
//	body      = { free-text | settings | query | table }
//	settings  = a fenced code block of language yaml, at most one in a body
//	query     = a fenced code block of language sql, at most one in a body
//	table     = a GitHub table, at most one in a body
//
// A reading belongs to the nearest question or follow-up above it; a follow-up to the question above it and the turn
// before it. Other headings of level 3 start free text, in which settings, queries and tables are an error; headings of
// level 4 and deeper are part of the body. What stands in lists, quotes and comments is free text.
//
// Cells of a table: NULL is null, a blank cell is the empty text, text in backticks is literal, "\|" is a bar. Numbers
// are plain, dates and times ISO 8601, booleans true and false. A column whose cells all parse as one type has it.
//
// Non-goals: other Markdown dialects, tables inside lists, line breaks in cells (such answers live in a file).
package golden
