# frozen_string_literal: true

# What sources bring to a layout. What others made is read in a process of its
# own. Asking volumes how small they can become takes a moment, and what has an
# identity never changes: the last ones are kept.
module LayoutSources
  KEPT = 8
  PATIENCE = { processor: 300, seconds: 300 }.freeze
  CACHE = {} # rubocop:disable Style/MutableConstant -- uid → what is known of it
  LOCK = Mutex.new

  # references: [file, identity] of each file that names a part by its identity
  Known = Struct.new(:source, :references, keyword_init: true)

  module_function

  # @param from [Restorable]
  # @return [Known]
  # @raise [Evrel::Error]
  def of(from)
    # Not within the lock: a slow shelf keeps nobody else waiting.
    found = LOCK.synchronize { CACHE[from.uid] } || read(from)
    LOCK.synchronize do
      CACHE.delete(from.uid) # the latest comes last
      CACHE[from.uid] = found
      CACHE.shift if CACHE.size > KEPT
    end
    found
  end

  def read(from)
    told = SourceAccess.apart(from, **PATIENCE) { |opened| told(opened) }
    Known.new(source: Evrel::Layout::PlainSource.source(told['source']), references: told['references'])
  end

  def told(opened)
    source = Evrel::Layout::Source.of(opened)
    identities = source.parts.map { |part| part.guid.to_s.downcase }.reject(&:empty?)
    references = source.parts.flat_map do |part|
      Evrel::Layout::References.new(Evrel::Disk::Window.new(opened.disk, part.start, part.size)).named(identities, source.table)
    end
    { source: Evrel::Layout::PlainSource.told(source), references: references.map { |path, identity| [path.dup.force_encoding('UTF-8').scrub, identity] } }
  end
  private_class_method :read, :told
end
