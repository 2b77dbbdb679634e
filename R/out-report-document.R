# A report as a list of blocks, the same for every form of file:
#   heading(level, text), paragraph(text, class), bullets(items), answers(questions, answers),
#   table(columns, numeric, caption, number, note), figure(figure, name, alt, number), code(lines)

report_document <- function(x, settings) {
  analyses <- Filter(function(one) inherits(one, "sw_result"), x)
  surveys <- Filter(function(one) has_answers(one), x)
  numbers <- new.env()
  numbers$table <- numbers$figure <- 0
  body <- unlist(lapply(in_order_of_work(analyses), function(group) section_blocks(group, settings, numbers)), recursive = FALSE)
  blocks <- c(short_blocks(analyses, settings), body)
  appendix <- appendix_blocks(analyses, surveys, settings, numbers, document_text(blocks), attr(x, "left_out"))
  list(settings = settings, blocks = c(blocks, appendix))
}

report_block <- function(kind, ...) list(c(list(kind = kind), list(...)))

# Sections, each with the classes it holds, in the order of work.
report_sections <- list(
  screening = c("sw_screening", "sw_keying", "sw_answering", "sw_option_curves", "sw_dif"), reliability = "sw_reliability",
  exploration = c("sw_factorability", "sw_retention", "sw_exploration", "sw_solutions", "sw_stability"),
  confirmation = c("sw_confirmation", "sw_comparison", "sw_influence", "sw_power"), groups = "sw_invariance",
  validity = c("sw_validity", "sw_composites"), scores = c("sw_scores", "sw_explanation")
)

section_of <- function(result) {
  found <- names(report_sections)[vapply(report_sections, function(classes) class(result)[1] %in% classes, TRUE)]
  c(found, "other")[1]
}

in_order_of_work <- function(analyses) {
  home <- vapply(analyses, section_of, "")
  present <- intersect(c(names(report_sections), "other"), home)
  lapply(stats::setNames(present, present), function(name) unname(analyses[home == name]))
}

# The first page: what was asked, and the answer.
short_blocks <- function(analyses, settings) {
  if (length(analyses) < 2) {
    return(NULL)
  }
  ordered <- unlist(in_order_of_work(analyses), recursive = FALSE, use.names = FALSE)
  c(
    report_block("heading", level = 1, text = settings$words$in_short),
    if (people_counted(ordered) != "") report_block("paragraph", text = people_counted(ordered), class = ""),
    report_block("answers", questions = vapply(ordered, question_of, "", words = settings$words), answers = vapply(ordered, headline, ""))
  )
}

question_of <- function(result, words) {
  known <- words$questions[[class(result)[1]]]
  if (is.null(known)) translated(result$about$title, words$titles) else known
}

section_blocks <- function(group, settings, numbers) {
  name <- section_of(group[[1]])
  c(
    report_block("heading", level = 1, text = settings$words$sections[[name]]),
    unlist(lapply(group, function(one) analysis_blocks(one, settings, numbers)), recursive = FALSE)
  )
}

analysis_blocks <- function(x, settings, numbers) {
  shown <- Filter(function(table) NROW(table) > 0, report_tables(x))
  words <- sentences(x)
  c(
    report_block("heading", level = 2, text = translated(x$about$title, settings$words$titles)),
    report_block("paragraph", text = headline(x), class = "answer"),
    if (length(x$notes) > 0) report_block("bullets", items = x$notes), figure_blocks(x, numbers),
    unlist(lapply(names(shown), function(caption) {
      table_block(shown[[caption]], caption, table_note(x, caption == names(shown)[1]), settings, numbers)
    }), recursive = FALSE),
    if (length(words) > 0) c(report_block("heading", level = 3, text = settings$words$methods),
      report_block("paragraph", text = paste(words, collapse = " "), class = "sentences"))
  )
}

drawable_results <- c(
  "sw_reliability", "sw_screening", "sw_answering", "sw_option_curves", "sw_dif", "sw_retention", "sw_exploration", "sw_stability", "sw_confirmation",
  "sw_invariance"
)

figure_blocks <- function(x, numbers) {
  if (!inherits(x, drawable_results)) {
    return(NULL)
  }
  unlist(lapply(report_figures(x), function(figure) {
    numbers$figure <- numbers$figure + 1
    report_block("figure", figure = figure, name = paste0(sub("^sw_", "", class(x)[1]), "-", numbers$figure), alt = ggplot2::get_alt_text(figure),
      number = numbers$figure, caption = figure_title(figure))
  }), recursive = FALSE)
}

# Each figure drawn once, into a folder, for every form of the report: `file` in its block.
draw_document <- function(document, folder) {
  dir.create(folder, recursive = TRUE, showWarnings = FALSE)
  document$blocks <- lapply(document$blocks, function(b) {
    if (b$kind == "figure") {
      b$file <- file.path(folder, paste0(b$name, ".png"))
      save_figure(b$figure, b$file)
    }
    b
  })
  document
}

document_figures <- function(document) Filter(function(b) b$kind == "figure", document$blocks)

figure_title <- function(figure) {
  title <- figure$labels$title
  if (is.null(title)) "" else as.character(title)
}

table_block <- function(table, caption, note, settings, numbers) {
  numbers$table <- numbers$table + 1
  words <- settings$words
  whole <- table
  table <- readable(table)
  columns <- format_columns(table, settings$digits, settings$language, whole = whole)
  names(columns) <- translated(column_header(names(columns)), words$columns)
  report_block("table", columns = columns, numeric = vapply(table, is.numeric, TRUE), rows = nrow(table),
    caption = translated(caption, words$captions), number = numbers$table,
    note = note)
}

appendix_blocks <- function(analyses, surveys, settings, numbers, text, left_out) {
  words <- settings$words
  used <- references_in(text)
  c(
    report_block("heading", level = 1, text = words$appendix),
    if (length(surveys) > 0) c(
      report_block("heading", level = 2, text = words$record), report_block("paragraph", text = words$record_about, class = ""),
      unlist(lapply(surveys, function(survey) table_block(sw_log(survey), words$steps, "", settings, numbers)), recursive = FALSE)
    ),
    if (length(left_out) > 0) c(report_block("heading", level = 2, text = words$left_out),
      report_block("bullets", items = paste0(sub("^Dif$", "DIF", table_title(names(left_out))), ": ", left_out))),
    if (!is.null(settings$plan)) c(report_block("heading", level = 2, text = words$plan),
      report_block("code", lines = readLines(settings$plan, warn = FALSE))),
    if (length(analyses) > 0) c(report_block("heading", level = 2, text = words$options),
      report_block("bullets", items = vapply(Filter(function(x) length(Filter(length, x$about$options)) > 0, analyses), function(x) {
        paste0(translated(x$about$title, words$titles), ": ", option_words(x$about$options), ".")
      }, ""))),
    report_block("heading", level = 2, text = words$versions), report_block("paragraph", text = version_words(), class = ""),
    if (length(used) > 0) c(report_block("heading", level = 2, text = words$references), report_block("bullets", items = used))
  )
}

version_words <- function() {
  packages <- c("Rcpp", "ggplot2", "data.table")
  paste0(
    "Made with scalewort ", utils::packageVersion("scalewort"), " and R ", getRversion(), " on ", format(Sys.Date()), "; ",
    and_list(paste(packages, vapply(packages, function(p) as.character(utils::packageVersion(p)), ""))), "; ", R.version$platform, "."
  )
}

# All words of a document.
document_text <- function(blocks) {
  paste(rapply(as.list(blocks), function(x) paste(x, collapse = " "), classes = "character", how = "unlist"), collapse = " ")
}

# Full references of the works that the text cites by author and year.
references_in <- function(text) {
  known <- utils::read.csv(report_file("references.csv"), colClasses = "character", encoding = "UTF-8")
  cited <- mapply(function(author, year) grepl(paste0(author, "( et al[.])?[^.;]{0,80}", year), text), known$author, known$year)
  sort(unique(known$reference[cited]), method = "radix")
}
