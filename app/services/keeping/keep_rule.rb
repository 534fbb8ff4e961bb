# frozen_string_literal: true

# Which images could be given up, by what is kept of their computer: the newest
# so many, one a month for so many months, and those that were seen to start.
# Only proposals: nothing is given up by rule.
class KeepRule
  Row = Struct.new(:id, :computer_id, :taken_at, :uid)

  # @param computers [ActiveRecord::Relation, nil] only of these
  def initialize(computers = nil)
    @computers = computers
  end

  # @return [Hash{Integer=>String}] id of each image that could be given up, and why
  def spare
    @spare ||= rows.group_by(&:computer_id).reduce({}) { |all, (id, images)| all.merge(of(rules.fetch(id), images)) }
  end

  # @return [Hash{Integer=>Hash}] shelf → count and bytes of what could be given up on it
  def by_shelf
    Image.where(id: spare.keys).group(:shelf_id).pluck(:shelf_id, Arel.sql('COUNT(*)'), Arel.sql('SUM(file_bytes)'))
         .to_h { |shelf, count, bytes| [shelf, { count:, bytes: bytes&.to_i }] }
  end

  private

  # Whole ones only, the newest first: what was not checked proves nothing, and stands for nothing.
  def rows
    scope = Image.there.where(state: 'whole').where.not(computer_id: busy_computers)
    scope = @computers ? scope.where(computer: @computers) : scope.where.not(computer_id: nil)
    scope.order(taken_at: :desc, id: :desc).pluck(:id, :computer_id, :taken_at, :uid).map { |row| Row.new(*row) }
  end

  def rules
    @rules ||= (@computers || Computer.all).pluck(:id, :name, :keep_newest, :keep_monthly, :keep_started).to_h do |id, *rule|
      [id, %i[name newest monthly started].zip(rule).to_h]
    end
  end

  # Whoever repairs one may need any of them.
  def busy_computers = Docket.where(closed_at: nil).select(:computer_id)

  def of(rule, images)
    months = images.group_by { |image| image.taken_at.strftime('%Y-%m') }.values.map(&:first).first(rule[:monthly])
    kept = (images.first([rule[:newest], 1].max) + months).to_set
    images.reject { |image| kept.include?(image) || needed.include?(image.uid) || (rule[:started] && started.include?(image.id)) }
          .to_h { |image| [image.id, why(rule)] }
  end

  def why(rule)
    ["not among the newest #{rule[:newest]} of #{rule[:name]}",
     (rule[:monthly].positive? ? 'not the last of its month' : nil), ('never seen to start' if rule[:started])].compact.join(', ')
  end

  # Others hold only what differs from these.
  def needed = @needed ||= Image.on_shelf.pluck(Arel.sql("JSON_VALUE(manifest, '$.onto.id')")).compact.to_set

  def started
    @started ||= (TrialStart.where(outcome: 'reached').where.not(image_id: nil).distinct.pluck(:image_id) +
                  Write.of_images.where(verified: true).distinct.pluck(:source_id)).to_set
  end
end
