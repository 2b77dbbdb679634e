# A first codebook and a plan with every key explained.

# Drafts a codebook and a plan beside a file of answers: list(codebook, paths).
write_start <- function(path, folder = NULL, overwrite = FALSE, trust = FALSE) {
  codebook <- sw_draft_codebook(path, trust = trust)
  if (is.null(folder)) folder <- dirname(path)
  name <- tools::file_path_sans_ext(basename(path))
  paths <- file.path(folder, paste0(name, c("-codebook.csv", "-plan.yml")))
  taken <- file.exists(paths) & !overwrite
  if (any(taken)) stop_file(paste0("The file is there already: ", paths[taken][1]), hint = "Use --overwrite to replace it.")
  sw_write(codebook, paths[1], overwrite = overwrite)
  guess <- guess_identifier(path, codebook, trust)
  data <- if (normalizePath(folder) == normalizePath(dirname(path))) basename(path) else normalizePath(path)
  write_safely(paths[2], overwrite, function(draft) writeLines(enc2utf8(plan_lines(data, basename(paths[1]), guess)), draft, useBytes = TRUE))
  list(codebook = codebook, paths = paths)
}

# A column without repeats is the identifier; a text column of few values a group, most of all one
# whose groups have 20 people each.
guess_identifier <- function(path, codebook, trust) {
  data <- read_table(path, list(header = TRUE, trust = trust))$data
  others <- codebook$items$item[codebook$items$role == "aside" & is.na(codebook$items$options)]
  unique_column <- Filter(function(name) !anyDuplicated(data[[name]]) && !anyNA(data[[name]]), others)
  few <- Filter(function(name) is.character(data[[name]]) && length(unique(data[[name]])) %in% 2:12, others)
  large <- Filter(function(name) min(table(data[[name]])) >= 20, few)
  list(id = utils::head(unique_column, 1), group = utils::head(c(large, few), 1))
}

plan_lines <- function(data, codebook, guess) {
  line <- function(key, value, what) {
    value <- if (is.character(value)) encodeString(value, quote = "\"") else value
    text <- if (length(value) == 0) paste0("# ", key, ":") else paste0(key, ": ", value)
    paste0(text, strrep(" ", max(1, 44 - nchar(text))), "# ", what)
  }
  c(
    "# What scalewort is to do. Edit, check with: scalewort check this-file", "# then: scalewort run this-file", "",
    line("title", "From answers to scores", "title of the report"), line("author", character(), "its author"),
    line("data", data, "the file of answers"), line("codebook", codebook, "check its guesses first"),
    line("id", guess$id, "column with the case's identifier (a guess)"), line("group", guess$group, "column with groups to compare (a guess)"),
    line("wave", character(), "column with waves"),
    line("waves", character(), "their order, as [pre, post]"),
    line("cluster", character(), "column with the school, firm or household"), line("weight", character(), "column with sampling weights"),
      line("seed", 1, "the same seed gives the same halves"),
    line("output", "results", "folder for tables, figures, report"), "",
    "# Items to turn and items or cases to set aside, each with its reason:",
    "# flip:", "#   - items: [item3]", "#     reason: worded against the others",
    "# set_aside:", "#   - items: [item6]", "#     reason: asks about something else",
    "# careless:                                 # cases with so many flags of careless answering", "#   flags: 3",
      "#   reason: answered without reading",
    "# repair_keying: true                       # turn items that look unreversed, on record", "",
    "# Steps: what stands here is what happens anyway; false leaves a step out.",
    "# option_curves: false", "# dif:", "#   adjust: BH                              # or holm, none",
    "# reliability:", "#   interval: feldt                         # or bonett, percentile, bca",
    "# split:", "#   share: 0.5                              # of the cases to explore",
      "#   method: random                          # or stratified, matched",
    "# retention:", "#   replicates: 1000                        # random matrices of the parallel analysis",
    "# exploration:", "#   factors: 4                              # when not given, what most rules suggest",
    "#   extraction: ml                          # or minres, paf, gls, pca, alpha",
      "#   rotation: oblimin                       # or varimax, geomin, promax, ...",
    "#   correlation: pearson                    # or spearman, polychoric",
    "# stability:", "#   halves: 50                              # random splits",
    "# structure: exploration                    # or codebook, a YAML file, or factors with their items",
    "# confirmation:", "#   estimator: ml                           # or robust, ordinal, gls, uls",
    "# invariance:", "#   by: group                               # the survey's group when not given",
      "#   release: auto                           # lift equalities until a step holds",
    "# validity:", "#   replicates: 1000", "# composites: false",
    "# scores:", "#   method: [mean]                          # sum, share, right, regression, ...",
      "#   form: [t]                               # z, percentile, stanine", "",
    "# limits:                                   # bounds that judge", "#   alpha: [0.70, 0.90]",
    "# reports: [html]                           # and docx, md",
      "# write: [csv]                              # and xlsx, sav, parquet, tsv, json, xml (DDI)",
    "# language: en                              # or de", "# theme: auto                               # or light, dark"
  )
}
