// Package page holds the parts of a report's page: its markup, style and script. They are ours, and ask nothing of the network.
package page

import _ "embed" // the files beside this one

// Markup is the page as a template: see render.Page for what it is filled with.
//
//go:embed page.html
var Markup string

// Style is the page's style sheet.
//
//go:embed page.css
var Style string

// Script searches, sorts, filters and unfolds the questions. Without it the page can be read.
//
//go:embed page.js
var Script string
