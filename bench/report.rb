# frozen_string_literal: true

require 'fileutils'
require 'json'

# Prints what was measured, and keeps it as JSON and as a table.
class Report
  FOLDER = File.expand_path('../docs/benchmarks', __dir__)

  # @param name [String] of the file
  # @param about [Hash] on what it was measured
  def initialize(name, **about)
    @name = name
    @about = about
  end

  # @param results [Hash{String=>Hash}] what → figures
  def give(results)
    results.each { |name, values| puts "#{name.ljust(44)} #{said(values)}" }
    FileUtils.mkdir_p(FOLDER)
    File.write(File.join(FOLDER, "#{@name}.json"), "#{JSON.pretty_generate({ **@about, medians: results })}\n")
    File.write(File.join(FOLDER, "#{@name}.md"), table(results))
  end

  private

  def said(values) = values.map { |key, value| "#{key.to_s.tr('_', ' ')} #{value.is_a?(Hash) ? "(#{said(value)})" : value}" }.join(', ')

  def table(results)
    lines = results.map { |name, values| "| #{name} | #{compared(values)} | #{values[:ratio]} |" }
    head = ["# `bin/bench #{@name}`", '', "#{said(@about).capitalize}; medians.", '', '| what | figures | ratio |', '| --- | --- | --- |']
    [*head, *lines, ''].join("\n")
  end

  def compared(values)
    return said(values.except(:ratio)) unless values[:against]

    "#{values[:seconds]} s, against #{values[:their_seconds]} s of #{values[:against]}"
  end
end
