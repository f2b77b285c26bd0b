using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Bostel.Data.Migrations
{
    /// <inheritdoc />
    public partial class PieceColumns : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "Columns",
                table: "Pieces",
                type: "text",
                nullable: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "Columns",
                table: "Pieces");
        }
    }
}
