survey <- sw_demo("plotholders")
draw_to_file <- function(figure) {
  path <- tempfile(fileext = ".png")
  core("save_figure")(figure, path)
  size <- file.size(path)
  unlink(path)
  size
}

test_that("the heat map holds every correlation once and marks the negative ones within a subscale", {
  screening <- sw_screen(sw_demo("plotholders", codebook = "draft"))
  figure <- ggplot2::autoplot(screening)
  built <- ggplot2::ggplot_build(figure)$data
  r <- screening$parts$correlations
  expect_equal(nrow(built[[1]]), 22 * 21 / 2)
  home <- sub("[0-9]+$", "", colnames(r))
  negative <- sum(r[lower.tri(r)] < 0 & outer(home, home, `==`)[lower.tri(r)])
  expect_gt(negative, 0)
  expect_equal(nrow(built[[2]]), negative)
  expect_match(ggplot2::get_alt_text(figure), paste(negative, "are negative within a subscale"))
  expect_gt(draw_to_file(figure), 1e4)
})

test_that("scores are drawn with their error, items of any range with their answers, many items a panel a factor", {
  scores <- sw_score(survey)
  built <- ggplot2::ggplot_build(ggplot2::autoplot(scores))$data
  expect_equal(sum(built[[1]]$ymax), sum(scores$tables$scales$n))
  expect_equal(built[[2]]$xmax - built[[2]]$xmin, 2 * scores$tables$scales$sem)
  expect_error(ggplot2::autoplot(scores, scores = "calm"), "calm_mean", class = "scalewort_error_input")
  wide <- sw_survey(data.frame(a = rep(0:100, 2), b = rep(c(1, 2.5, 3, 1.5), length.out = 202)), data.frame(item = c("a", "b"), lowest = c(0, 1),
    highest = c(100, 3)))
  bars <- ggplot2::ggplot_build(ggplot2::autoplot(sw_screen(wide), "options"))$data[[2]]
  expect_setequal(as.vector(table(bars$ymax)), c(4, 10))
  structure <- do.call(sw_structure, split(paste0("q", 1:30), rep(c("one", "two", "three"), 10)))
  held <- sw_confirm(sw_simulate(structure, 300, seed = 2), structure)
  expect_equal(nrow(ggplot2::ggplot_build(ggplot2::autoplot(held))$layout$layout), 3)
  expect_equal(nrow(ggplot2::ggplot_build(ggplot2::autoplot(sw_confirm(survey)))$layout$layout), 1)
})

test_that("the scree shows all series", {
  retention <- sw_retention(survey, replicates = 100)
  figure <- ggplot2::autoplot(retention)
  points <- ggplot2::ggplot_build(figure)$data[[3]]
  drawn <- tidy(retention, "eigenvalues")
  expect_match(figure$labels$title, "4 factors")
  # What the two rules that decide compare: the common factors', not only the components'.
  expect_equal(sort(points$y), sort(unlist(drawn[c("common", "common_percentile", "eigenvalue", "empirical_kaiser")], use.names = FALSE)))
  decided <- min(retention$parts$agreement$after)
  shared <- points[points$group == 1, ]
  chance <- points[points$group == 2, ]
  expect_true(all(shared$y[seq_len(decided)] > chance$y[seq_len(decided)]))
})

test_that("the loadings figure draws the pattern", {
  exploration <- sw_explore(survey, 4)
  figure <- ggplot2::autoplot(exploration)
  bars <- ggplot2::layer_data(figure, 2)
  expect_equal(sort(bars$xmin + bars$xmax), sort(as.vector(exploration$parts$pattern)))
  expect_gt(draw_to_file(figure), 1e4)
  expect_gt(draw_to_file(ggplot2::autoplot(sw_explore(survey, 1))), 1e4)
})

test_that("heat map, plane and paths of an exploration", {
  exploration <- sw_explore(survey, 4)
  heat <- ggplot2::autoplot(exploration, "heat")
  expect_setequal(ggplot2::layer_data(heat, 2)$label, core("coefficient_text")(exploration$parts$pattern, 2))
  plane <- ggplot2::autoplot(exploration, "plane", pair = c("F2", "F4"))
  arrows <- ggplot2::layer_data(plane, 3)
  # Arrows of length one whose cosine is the factors' correlation; items keep their distances.
  expect_equal(arrows$xend^2 + arrows$yend^2, c(1, 1), tolerance = 1e-8)
  expect_equal(prod(arrows$xend) + prod(arrows$yend), exploration$parts$factor_correlations["F2", "F4"], tolerance = 1e-8)
  items <- ggplot2::layer_data(plane, 5)
  two <- exploration$parts$pattern[, c("F2", "F4")]
  expect_equal(items$x^2 + items$y^2, unname(rowSums((two %*% exploration$parts$factor_correlations[c(2, 4), c(2, 4)]) * two)), tolerance = 1e-8)
  paths <- ggplot2::ggplot_build(ggplot2::autoplot(exploration, "paths"))$data
  labels <- unlist(lapply(paths, `[[`, "label"))
  expect_false("calm6" %in% labels)
  expect_true(all(c("F1", "craft5", ".35") %in% labels))
  for (figure in c("heat", "plane", "paths")) expect_gt(draw_to_file(ggplot2::autoplot(exploration, figure)), 1e4)
  expect_error(ggplot2::autoplot(exploration, "plane", pair = c(1, 9)), class = "scalewort_error_input")
  expect_error(ggplot2::autoplot(sw_explore(survey, 1), "plane"), class = "scalewort_error_input")
})

test_that("resampled intervals of omega are drawn where they exist", {
  resampled <- sw_reliability(survey, interval = "percentile", replicates = 200)
  lines <- ggplot2::layer_data(ggplot2::autoplot(resampled), 4)
  expect_equal(sort(lines$x), sort(tidy(resampled)$omega_low))
  expect_gt(draw_to_file(ggplot2::autoplot(resampled)), 1e4)
})

test_that("fit per number of factors, and congruence of halves", {
  retention <- sw_retention(survey, replicates = 50)
  figure <- ggplot2::autoplot(retention, "fit")
  points <- ggplot2::layer_data(figure, 6)
  expect_equal(sort(points$y[points$PANEL == 2]), sort(tidy(retention, "fits")$cfi[points$x[points$PANEL == 2] + 1]))
  expect_gt(draw_to_file(figure), 1e4)
  stability <- sw_stability(survey, 4, halves = 6)
  dots <- ggplot2::layer_data(ggplot2::autoplot(stability), 3)
  expect_equal(sort(dots$x), sort(tidy(stability, "splits")$congruence))
  expect_gt(draw_to_file(ggplot2::autoplot(stability)), 1e4)
})

test_that("the path diagram has an arrow per loading and its value", {
  structure <- sw_structure(survey) |> sw_add_pair("craft5", "craft6") |> sw_add_loading("kin5", "craft")
  confirmation <- sw_confirm(survey, structure)
  figure <- ggplot2::autoplot(confirmation)
  layers <- ggplot2::ggplot_build(figure)$data
  labels <- unlist(lapply(layers, `[[`, "label"))
  values <- core("coefficient_text")(tidy(confirmation, "loadings")$standardised, 2)
  expect_true(all(values %in% labels))
  expect_true(all(c(names(structure$factors), core("structure_items")(structure)) %in% labels))
  expect_equal(sum(vapply(layers, function(l) if (all(c("xend", "yend") %in% names(l))) nrow(l) else 0L, 1L)), 23)
  expect_match(ggplot2::get_alt_text(figure), "4 factors and 22 items")
  expect_gt(draw_to_file(figure), 1e4)
})

test_that("plot() draws what autoplot() gives; a result without a figure says so", {
  withr::local_pdf(withr::local_tempfile(fileext = ".pdf"))
  shown <- withVisible(plot(sw_screen(survey), "options"))
  expect_false(shown$visible)
  expect_equal(shown$value$labels$title, autoplot(sw_screen(survey), "options")$labels$title)
  expect_equal(plot(sw_structure(survey))$labels$title, "The structure, before any fitting")
  expect_error(plot(sw_keying(survey)), "no figure", class = "scalewort_error_input")
})

test_that("figures drawn by several processes are those drawn by one, and what cannot be drawn ends in an error", {
  draw <- function(threads) {
    callr::r(function() {
      core <- function(name) getFromNamespace(name, "scalewort")
      survey <- scalewort::sw_demo("plotholders")
      figures <- lapply(list(scalewort::sw_screen(survey), scalewort::sw_reliability(survey)), ggplot2::autoplot)
      paths <- tempfile(rep("figure", 3), fileext = ".png")
      core("save_figures")(figures, paths[1:2])
      broken <- ggplot2::ggplot(data.frame(x = 1), ggplot2::aes(x, nothing_of_this_name)) + ggplot2::geom_point()
      error <- tryCatch(core("save_figures")(c(figures[1], list(broken)), paths[c(1, 3)]), error = function(e) conditionMessage(e))
      list(files = unname(tools::md5sum(paths)), error = error, processes = core("drawing_processes")())
    }, env = c(callr::rcmd_safe_env(), SCALEWORT_THREADS = threads))
  }
  one <- draw("1")
  two <- draw("2")
  expect_equal(one$processes, 1)
  expect_equal(two$files[1:2], one$files[1:2])
  expect_false(anyNA(two$files[1:2]))
  for (found in list(one, two)) expect_match(found$error, "Problem while computing aesthetics")
  expect_equal(two$processes, if (Sys.info()[["sysname"]] == "Linux") min(2, parallel::detectCores()) else 1)
})

test_that("figures of misfit, of groups and of halves draw the numbers of their tables", {
  fit <- sw_confirm(survey)
  cells <- ggplot2::layer_data(ggplot2::autoplot(fit, "residuals"), 1)
  expect_equal(nrow(cells), 22 * 21 / 2)
  written <- ggplot2::layer_data(ggplot2::autoplot(fit, "residuals"), 2)
  r <- fit$parts$residual_r
  expect_setequal(written$label, core("coefficient_text")(r[lower.tri(r)][abs(r[lower.tri(r)]) > .10], 2))
  groups <- sw_invariance(survey, by = "district", estimator = "ml", release = list(intercept = "soil5"))
  values <- tidy(groups, "parameters")
  drawn <- ggplot2::ggplot_build(ggplot2::autoplot(groups, "parameters"))$data
  points <- Find(function(layer) "shape" %in% names(layer), drawn)
  expect_equal(nrow(points), 2 * 2 * 22)
  means <- tidy(groups, "means")
  shown <- Find(function(layer) "shape" %in% names(layer), ggplot2::ggplot_build(ggplot2::autoplot(groups, "means"))$data)
  expect_true(all(means$effect %in% shown$x) || all(means$mean %in% shown$x) || all(round(means$effect, 8) %in% round(shown$x, 8)))
  lines <- ggplot2::layer_data(ggplot2::autoplot(groups, "item", item = "soil5"), 1)
  expect_equal(length(unique(lines$group)), 2)
  # South answers soil5 lower at the same level.
  at <- function(g) stats::approx(lines$x[lines$group == g], lines$y[lines$group == g], 0)$y
  expect_gt(abs(at(1) - at(2)), .5)
  halves <- sw_reliability(survey)
  dots <- ggplot2::layer_data(ggplot2::autoplot(halves, "splits"), 1)
  expect_equal(nrow(dots), sum(lengths(halves$parts$splits)))
})

test_that("a comparison needs three items in common, in figures as in words", {
  two <- matrix(c(.7, .6, .1, .2), 2, dimnames = list(c("a", "b"), c("f", "g")))
  expect_error(sw_compare(two, two), "three are the least", class = "scalewort_error_input")
  three <- rbind(two, c = c(.1, .8))
  expect_equal(sw_compare(three, three)$congruence, c(1, 1))
})
